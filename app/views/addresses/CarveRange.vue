<script setup lang="ts">
import { carve, isPrefixFault, lengthForParts, MOST_PARTS, parsePrefix } from '@salt-trail/core'
import type { TableText } from '~/tables/table-text'

/**
 * A calculator: a range in equal parts, with counts and the first and last address hosts can have.
 */
const prefix = defineModel<string>('prefix', { required: true })
const into = defineModel<string>('into', { required: true })
const read = computed(() => parsePrefix(prefix.value.trim()))
const fault = computed(() => {
  const text = prefix.value.trim()
  if (text === '' || !isPrefixFault(read.value)) return ''
  const { fault: what, meant } = read.value
  if (what === 'host-bits') return `${text} has host bits set: write ${meant}`
  return what === 'no-length'
    ? `${text} has no length: write ${meant}, or how long its prefix is`
    : `${text} is no prefix, such as 10.60.0.0/16`
})
/** `4` is a number of parts, `/24` their length. */
const length = computed(() => {
  if (isPrefixFault(read.value)) return null
  const text = into.value.trim()
  if (/^\/\d{1,3}$/.test(text)) return Number(text.slice(1))
  return /^\d{1,9}$/.test(text) && Number(text) > 0
    ? lengthForParts(read.value, Number(text))
    : null
})
const carved = computed(() => {
  if (isPrefixFault(read.value) || length.value === null) return null
  try {
    return { ...carve(read.value, length.value), refused: '' }
  } catch (error) {
    return { count: 0n, parts: [], refused: (error as Error).message }
  }
})
const table = (): TableText => ({
  columns: ['prefix', 'first usable', 'last usable', 'usable addresses'],
  rows: (carved.value?.parts ?? []).map((part) => [
    part.prefix,
    part.first ?? '',
    part.last ?? '',
    part.usable,
  ]),
})
const big = (text: string): string =>
  text.length > 15
    ? `2^${Math.round(Math.log2(Number(text)))}`
    : Number(text).toLocaleString('en-GB')
</script>

<template>
  <section aria-label="Carve a range">
    <div class="flex items-baseline gap-3">
      <h2 class="font-semibold">Carve</h2>
      <label class="text-xs text-soft"
        ><span class="sr-only">the range to carve</span
        ><input
          v-model="prefix"
          class="mono w-40 border-b border-rule bg-transparent px-1 py-0.5 text-ink"
          placeholder="10.60.0.0/16"
          spellcheck="false"
        />
      </label>
      <label class="flex items-baseline gap-1.5 text-xs text-soft"
        >into
        <input
          v-model="into"
          class="mono w-16 border-b border-rule bg-transparent px-1 py-0.5 text-ink"
          placeholder="4 or /24"
          spellcheck="false"
        />
      </label>
      <CopyTable
        v-if="carved && carved.parts.length > 0"
        class="ml-auto"
        name="parts"
        :table="table"
      />
    </div>
    <p v-if="fault" role="alert" class="mt-2 text-xs text-leak">{{ fault }}</p>
    <p v-else-if="carved?.refused" role="alert" class="mt-2 text-xs text-leak">
      {{ carved.refused }}
    </p>
    <p v-else-if="!carved" class="mt-2 text-xs text-soft">
      A range, and how many equal parts (4) or how long they are (/24).
    </p>
    <template v-else>
      <p class="mt-2 text-xs text-soft">
        {{ big(String(carved.count)) }} {{ carved.count === 1n ? 'part' : 'parts' }} of /{{
          length
        }}, {{ big(carved.parts[0]!.usable) }} usable addresses each{{
          carved.count > BigInt(MOST_PARTS)
            ? `; the first ${MOST_PARTS.toLocaleString('en-GB')} are listed`
            : ''
        }}
      </p>
      <div class="mt-2 max-h-[340px] overflow-y-auto" tabindex="0" aria-label="The parts">
        <table class="w-full border-collapse">
          <thead>
            <tr class="sticky top-0 bg-paper text-left text-xs text-soft">
              <th class="py-1 font-medium">part</th>
              <th class="py-1 font-medium">first usable</th>
              <th class="py-1 font-medium">last usable</th>
            </tr>
          </thead>
          <tbody class="mono">
            <tr v-for="part in carved.parts" :key="part.prefix" class="border-t border-hair">
              <td class="py-0.5 pr-3">{{ part.prefix }}</td>
              <td class="py-0.5 pr-3">{{ part.first ?? 'none' }}</td>
              <td class="py-0.5">{{ part.last ?? 'none' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>
