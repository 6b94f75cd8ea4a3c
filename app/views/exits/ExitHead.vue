<script setup lang="ts">
import type { MarkedRow } from '@salt-trail/core'
import {
  canOpen,
  membersLike,
  MOST_MEMBERS,
  type OpenColumn,
  type ShownColumn,
} from '~/views/exits/columns'
import { COLUMNS, ORIGINS, waysInColumn, type ColumnKey, type Direction } from '~/views/exits/cells'
import { WAY_WORDS } from '~/views/exits/way-words'
import type { Outline } from '~/api/answers'

/** The headings of the matrix. A column that has members opens into them. */
const props = defineProps<{
  outline: Outline
  rows: readonly MarkedRow[]
  columns: readonly ShownColumn[]
  open: readonly string[]
  direction: Direction
  template: string
  shift: number
  like: string
}>()
const emit = defineEmits<{ toggle: [column: ColumnKey]; like: [text: string] }>()
const tooMany = (key: ColumnKey): key is OpenColumn =>
  props.open.includes(key) && (props.outline.members[key as OpenColumn]?.length ?? 0) > MOST_MEMBERS
const shownOf = (key: OpenColumn): string => {
  const fitting = membersLike(props.outline, key, props.like).length
  return `${Math.min(MOST_MEMBERS, fitting).toLocaleString('en-GB')} of ${props.outline.members[key].length.toLocaleString('en-GB')}`
}
const ways = computed(() => new Map(COLUMNS.map(({ key }) => [key, waysInColumn(props.rows, key)])))
/** The letters and lines of ways, as far as they have one. */
const LEGEND = ['translated', 'inspected', 'direct', 'private-line', 'service'] as const
const LEGEND_WORDS = {
  ...{ translated: 'translated', inspected: 'firewall', direct: 'direct' },
  ...{ 'private-line': 'line', service: 'service' },
}
const about = (key: ColumnKey): string => {
  if (props.direction === 'entering') return ORIGINS[key]
  if (key === 'sameNetwork') return 'built in, unless steered'
  const n = ways.value.get(key)!
  return `${n.toLocaleString('en-GB')} ${n === 1 ? 'way' : 'ways'}`
}
</script>

<template>
  <div class="overflow-hidden border-b border-ink">
    <div
      class="grid w-max"
      :style="{ gridTemplateColumns: template, transform: `translateX(${-shift}px)` }"
    >
      <div
        class="z-[1] bg-ground px-4 py-1.5 text-xs text-soft"
        :style="{ transform: `translateX(${shift}px)` }"
      >
        <span class="sr-only">Subnet</span>
        <span class="flex flex-wrap items-center gap-x-2 gap-y-0.5" aria-hidden="true">
          <span
            v-for="kind in LEGEND"
            :key="kind"
            class="flex items-center gap-1"
            :title="WAY_WORDS[kind]"
            ><WayBadge :kind="kind" />{{ LEGEND_WORDS[kind] }}</span
          >
        </span>
      </div>
      <div
        v-for="column in columns"
        :key="`${column.key} ${column.member}`"
        class="overflow-hidden px-2.5 py-1.5 whitespace-nowrap"
      >
        <template v-if="column.member === null">
          <span class="flex items-baseline gap-2 font-semibold"
            ><ExplainedTerm :term="column.key">{{ column.title }}</ExplainedTerm>
            <button
              v-if="canOpen(outline, column.key, direction)"
              type="button"
              class="cursor-pointer text-xs font-normal text-soft hover:text-ink"
              :aria-expanded="open.includes(column.key)"
              :aria-label="`${open.includes(column.key) ? 'Close' : 'Open'} ${column.title}`"
              @click="emit('toggle', column.key)"
            >
              {{ open.includes(column.key) ? 'close' : 'open' }}
            </button></span
          >
          <label v-if="tooMany(column.key)" class="flex items-baseline gap-1.5 text-xs text-soft">
            {{ shownOf(column.key) }}
            <input
              :value="like"
              type="search"
              class="w-24 border-b border-rule bg-ground text-ink"
              placeholder="name"
              :aria-label="`Which of ${column.title}, by name`"
              @change="emit('like', ($event.target as HTMLInputElement).value)"
            />
          </label>
          <span v-else class="block text-xs text-soft">{{ about(column.key) }}</span>
        </template>
        <template v-else>
          <span class="block truncate" :title="column.title">{{ column.title }}</span>
          <span class="block text-xs text-soft">{{
            COLUMNS.find((one) => one.key === column.key)!.title.toLowerCase()
          }}</span>
        </template>
      </div>
    </div>
  </div>
</template>
