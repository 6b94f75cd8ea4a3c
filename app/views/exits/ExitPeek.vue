<script setup lang="ts">
import { headline, passedText, rangesText, seenText } from '~/views/exits/way-words'
import type { ExitWay } from '@salt-trail/core'
import type { Cell, ColumnKey, Direction } from '~/views/exits/cells'

/** Beside the focused cell: its ranges with their ways and what the far side sees. */
const props = defineProps<{
  subnet: string
  column: ColumnKey
  where: string
  direction: Direction
  cell: Cell
  /** What tells the subnet from the many it is otherwise like. */
  unlike: readonly string[]
}>()
const estate = useEstate()
/** What the cell promises as an expectation: by what it leaves, or that it does not. */
const expected = computed(() => {
  if (props.direction !== 'leaving' || props.column !== 'internet') return null
  const by = [...new Set(props.cell.ways.flatMap((way) => (way.cause ? [] : (way.by ?? []))))]
  return {
    write: '1',
    from: `subnets/${props.subnet}`,
    to: 'internet',
    ...(by.length > 0 ? { must: 'leave-by', named: by.join(', ') } : { must: 'never-reach' }),
  }
})
const alone = (way: ExitWay): boolean =>
  props.cell.ways.filter(
    (other) => other.family === way.family && (other.hosts ?? [''])[0] === (way.hosts ?? [''])[0],
  ).length === 1
</script>

<template>
  <aside
    class="w-[540px] border border-ink bg-paper px-3.5 pt-3 pb-2.5 text-sm"
    aria-label="Ways of the cell"
  >
    <h2 class="mb-2 font-semibold">{{ headline(subnet, cell.ways, where, direction) }}</h2>
    <table class="w-full border-collapse">
      <thead class="sr-only">
        <tr>
          <th>kind</th>
          <th>{{ direction === 'entering' ? 'sources' : 'destinations' }}</th>
          <th>way</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(way, index) in cell.ways" :key="index" class="border-t border-hair align-top">
          <td class="w-7 py-1"><WayBadge :kind="way.kind" /></td>
          <td class="mono w-36 py-1 pr-3">
            {{ rangesText(way, alone(way), column) }}
            <span v-if="way.hosts" class="block font-sans text-xs text-soft">{{
              way.hosts.length > 2 ? `${way.hosts.length} hosts` : way.hosts.join(', ')
            }}</span>
          </td>
          <td class="py-1">
            {{ passedText(way)
            }}<template v-if="direction === 'leaving' ? seenText(way) : way.seenAs.length > 0"
              >, {{ direction === 'entering' ? 'coming as' : 'seen as' }}
              <span class="mono">{{ seenText(way) }}</span></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <ul v-if="cell.found.length > 0" class="mt-2 border-t border-rule pt-2">
      <li v-for="one in cell.found" :key="one.fingerprint" class="flex gap-2 py-0.5">
        <ProblemMark :mark="one.family" class="mt-0.5 shrink-0" />
        <NuxtLink
          :to="{
            path: `/${estate.slug}/${estate.revision}/findings`,
            query: { finding: one.fingerprint, family: one.family },
          }"
          class="hover:underline"
          >{{ one.sentence }}</NuxtLink
        >
      </li>
    </ul>
    <p v-if="unlike.length > 0" class="mt-2">Unlike most: {{ unlike.join('; ') }}</p>
    <p v-if="direction === 'entering'" class="mt-2 text-xs text-soft">
      Routes and translators alone; what rules let in is in
      <NuxtLink
        class="border-b border-rule"
        :to="{ path: `/${estate.slug}/${estate.revision}/ways-in`, query: { subnet } }"
        >Ways in</NuxtLink
      >.
    </p>
    <p class="mt-2 flex gap-4 text-xs">
      <ObjectName :of="`subnets/${subnet}`" says="the subnet’s page" />
      <NuxtLink
        v-if="expected"
        class="underline"
        :to="{ path: `/${estate.slug}/${estate.revision}/expectations`, query: expected }"
        >{{
          expected.must === 'never-reach' ? 'must never leave' : 'must leave as it does'
        }}</NuxtLink
      >
    </p>
    <p class="mt-2 text-xs text-soft">
      <kbd>Enter</kbd> trace &nbsp; <kbd>Space</kbd> hide or show this
    </p>
  </aside>
</template>
