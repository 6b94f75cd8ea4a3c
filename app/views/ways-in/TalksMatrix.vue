<script setup lang="ts">
import type { TableText } from '~/tables/table-text'
import { talkText } from '~/views/ways-in/exposure-words'
import { useTalks } from '~/views/ways-in/useTalks'

/**
 * Who can talk to whom on what among the networks. Where there are many, one row at a time: whom
 * the hosts of one network can talk to.
 */
const estate = useEstate()
const MOST_NETWORKS = 12
const networks = computed(() => (estate.outline?.networks ?? []).map(({ id }) => id))
const isWhole = computed(() => networks.value.length <= MOST_NETWORKS)
const from = textInAddress('network', 'push')
const to = textInAddress('to', 'push')
const rows = computed(() => {
  if (isWhole.value) return networks.value
  const named =
    networks.value.find((id) => id === from.value) ??
    estate.outline?.networks.find(({ hosts }) => hosts > 0)?.id ??
    networks.value[0]
  return named === undefined ? [] : [named]
})
const { talkOf, failure } = useTalks(() => rows.value)
const chosen = computed(() => (to.value ? talkOf(from.value || rows.value[0]!, to.value) : null))
const router = useRouter()
const route = useRoute()
const choose = (a: string, b: string): void =>
  void router.push({ query: { ...route.query, network: a, to: b } })
const cellOf = (a: string, b: string): string => {
  const talk = talkOf(a, b)
  return talk === null ? '…' : talkText(talk)
}
const table = (): TableText => ({
  columns: ['from', ...networks.value],
  rows: rows.value.map((a) => [a, ...networks.value.map((b) => (a === b ? '' : cellOf(a, b)))]),
})
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <div class="toolbar border-b border-rule text-soft">
      <label v-if="!isWhole" class="flex items-center gap-1.5"
        >from
        <select
          aria-label="from network"
          class="mono border-b border-rule bg-ground py-0.5 text-ink"
          :value="rows[0]"
          @change="
            router.push({
              query: {
                ...route.query,
                network: ($event.target as HTMLSelectElement).value,
                to: undefined,
              },
            })
          "
        >
          <option v-for="id in networks" :key="id" :value="id">{{ id }}</option>
        </select>
      </label>
      <span>every packet that hosts can exchange, by protocol and port</span>
      <CopyTable class="ml-auto" name="networks-among-each-other" :table="table" />
    </div>
    <p v-if="failure" class="p-4 text-leak" role="alert">{{ failure }}</p>
    <p v-else-if="networks.length < 2" class="p-4 text-soft">
      There is one network here, and nobody for it to talk to.
    </p>
    <div
      v-else
      class="grid min-h-0 flex-1"
      :class="chosen ? 'grid-cols-[minmax(0,1fr)_max(300px,24%)]' : 'grid-cols-1'"
    >
      <div class="overflow-auto" tabindex="0" role="region" aria-label="Networks among each other">
        <table v-if="isWhole" class="border-collapse">
          <thead>
            <tr class="border-b border-ink text-left text-xs text-soft">
              <th class="sticky left-0 bg-ground py-1.5 pr-6 pl-4 font-medium">from, to</th>
              <th v-for="id in networks" :key="id" class="py-1.5 pr-6 font-medium">{{ id }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="a in rows" :key="a" class="border-b border-hair">
              <th
                class="sticky left-0 bg-ground py-1.5 pr-6 pl-4 text-left font-semibold whitespace-nowrap"
              >
                {{ a }}
              </th>
              <td v-for="b in networks" :key="b" class="py-1 pr-6">
                <span v-if="a === b" class="text-faint" aria-label="itself">·</span>
                <button
                  v-else
                  type="button"
                  class="mono cursor-pointer px-1 py-0.5 text-left whitespace-nowrap hover:bg-wash"
                  :class="a === from && b === to ? 'outline outline-focus' : ''"
                  :aria-label="`${a} to ${b}: ${cellOf(a, b)}`"
                  @click="choose(a, b)"
                >
                  {{ cellOf(a, b) }}
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <TalkRows
          v-else-if="rows[0] !== undefined"
          :from="rows[0]"
          :others="networks.filter((id) => id !== rows[0])"
          :talk-of="talkOf"
          :to="to"
          @choose="choose(rows[0], $event)"
        />
      </div>
      <TalkDetail v-if="chosen" :talk="chosen" />
    </div>
  </div>
</template>
