<script setup lang="ts">
import type { Talk } from '@salt-trail/core'
import { talkRows } from '~/views/ways-in/talk-rows'

/** Whom the hosts of one network can talk to; networks of which the same is said are one row. */
const props = defineProps<{
  from: string
  others: readonly string[]
  talkOf: (from: string, to: string) => Talk | null
  /** The network that is chosen. */
  to: string
}>()
const emit = defineEmits<{ choose: [to: string] }>()
const rows = computed(() => talkRows(props.others, (to) => props.talkOf(props.from, to)))
/** So many names stand in a row that is not opened. */
const MOST_NAMES = 6
const opened = ref<ReadonlySet<string>>(new Set())
watch(
  () => props.from,
  () => (opened.value = new Set()),
)
const open = (text: string): void => void (opened.value = new Set([...opened.value, text]))
const namesOf = ({ text, to }: { text: string; to: readonly string[] }): readonly string[] =>
  opened.value.has(text) ? to : to.slice(0, MOST_NAMES)
</script>

<template>
  <table class="w-full border-collapse">
    <thead>
      <tr class="border-b border-ink text-left text-xs text-soft">
        <th class="py-1.5 pl-4 font-medium">on</th>
        <th class="py-1.5 font-medium">to</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.text" class="border-b border-hair align-top">
        <th class="w-80 py-1.5 pr-4 pl-4 text-left font-normal">
          <span class="mono">{{ row.text }}</span>{{ ' ' }}
          <span v-if="row.to.length > 1" class="ml-1 text-xs text-soft"
            >{{ row.to.length.toLocaleString('en-GB') }} networks</span
          >
        </th>
        <td class="py-1.5 pr-4">
          <span class="flex flex-wrap gap-x-3 gap-y-0.5">
            <button
              v-for="id in namesOf(row)"
              :key="id"
              type="button"
              class="cursor-pointer px-1 text-left hover:bg-wash"
              :class="id === to ? 'outline outline-focus' : ''"
              :aria-label="`${from} to ${id}: ${row.text}`"
              :aria-pressed="id === to"
              @click="emit('choose', id)"
            >
              {{ id }}
            </button>
            <button
              v-if="namesOf(row).length < row.to.length"
              type="button"
              class="cursor-pointer px-1 text-soft underline"
              @click="open(row.text)"
            >
              and {{ (row.to.length - namesOf(row).length).toLocaleString('en-GB') }} more
            </button>
          </span>
        </td>
      </tr>
    </tbody>
  </table>
</template>
