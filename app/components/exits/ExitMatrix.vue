<script setup lang="ts">
import type { ExitRow } from '@salt-trail/core'
import { useElementSize } from '@vueuse/core'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { cellOf, COLUMNS, waysInColumn, type Cell } from '~/exits/cells'
import type { Outline, SubnetOutline } from '~/stores/estate'

/**
 * The matrix: a row for each subnet, grouped by network, a column for each kind of destination.
 * Only the rows in sight are in the page. One cell is the current one; arrows move it.
 */
const props = defineProps<{ outline: Outline; rows: readonly ExitRow[]; onlyProblems: boolean }>()
const emit = defineEmits<{ trace: [question: { from: string; to: string }] }>()

type Item =
  | { readonly kind: 'network'; readonly network: Outline['networks'][number]; readonly count: number }
  | { readonly kind: 'subnet'; readonly subnet: SubnetOutline; readonly cells: readonly Cell[]; readonly name: string }

const rowOf = computed(() => new Map(props.rows.map((row) => [row.subnet, row])))
const items = computed<Item[]>(() =>
  props.outline.networks.flatMap((network): Item[] => {
    const subnets = props.outline.subnets
      .filter((subnet) => subnet.network === network.id)
      .flatMap((subnet) => {
        const row = rowOf.value.get(subnet.id)
        const cells = row ? COLUMNS.map((column) => cellOf(row[column.key])) : []
        // Inside its group a subnet need not repeat its network's name.
        const name = subnet.id.startsWith(`${network.id}-`) ? subnet.id.slice(network.id.length + 1) : subnet.id
        return props.onlyProblems && !cells.some((cell) => cell.mark) ? [] : [{ kind: 'subnet' as const, subnet, cells, name }]
      })
    return subnets.length === 0 && props.onlyProblems ? [] : [{ kind: 'network', network, count: subnets.length }, ...subnets]
  }),
)

const scroller = ref<HTMLElement | null>(null)
const { height, width } = useElementSize(scroller)
const virtualizer = useVirtualizer(
  computed(() => ({
    count: items.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: (index: number) => (items.value[index]?.kind === 'network' ? 38 : 29),
    overscan: 12,
    getItemKey: (index: number) => {
      const item = items.value[index]!
      return item.kind === 'network' ? `network ${item.network.id}` : `subnet ${item.subnet.id}`
    },
  })),
)

const current = ref({ subnet: '', column: 0 })
const peek = ref(true)
const hasFocus = ref(false)
const subnetIndexes = computed(() => items.value.flatMap((item, index) => (item.kind === 'subnet' ? [index] : [])))
const at = computed(() => {
  const found = items.value.findIndex((item) => item.kind === 'subnet' && item.subnet.id === current.value.subnet)
  return found >= 0 ? found : (subnetIndexes.value[0] ?? -1)
})
const currentItem = computed(() => {
  const item = items.value[at.value]
  return item?.kind === 'subnet' ? item : null
})
const currentCell = computed(() => currentItem.value?.cells[current.value.column] ?? null)
const cellId = (index: number, column: number): string => `cell-${index}-${column}`

function moveTo(index: number, column: number): void {
  const item = items.value[index]
  if (item?.kind !== 'subnet') return
  current.value = { subnet: item.subnet.id, column: Math.min(Math.max(column, 0), COLUMNS.length - 1) }
  virtualizer.value.scrollToIndex(index)
}

function step(by: number): void {
  const place = subnetIndexes.value.indexOf(at.value)
  const next = subnetIndexes.value[Math.min(Math.max(place + by, 0), subnetIndexes.value.length - 1)]
  if (next !== undefined) moveTo(next, current.value.column)
}

function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const page = Math.max(1, Math.floor(height.value / 29) - 2)
  const moves: Record<string, () => void> = {
    ArrowDown: () => step(1),
    ArrowUp: () => step(-1),
    PageDown: () => step(page),
    PageUp: () => step(-page),
    ArrowRight: () => moveTo(at.value, current.value.column + 1),
    ArrowLeft: () => moveTo(at.value, current.value.column - 1),
    Home: () => step(-items.value.length),
    End: () => step(items.value.length),
    ' ': () => (peek.value = !peek.value),
    Escape: () => (peek.value = false),
    Enter: ask,
  }
  const move = moves[event.key]
  if (!move) return
  event.preventDefault()
  move()
}

function ask(): void {
  const ways = currentCell.value?.ways ?? []
  const way = ways.find((one) => one.mark) ?? ways.find((one) => one.ranges === null) ?? ways[0]
  if (way) emit('trace', way.question)
}

/** Beside the cell where there is room, else under it. */
const PEEK_WIDTH = 540
const NAME_WIDTH = 290
const COLUMN_WIDTHS = [210, 180, 190, 200, 170]
const peekPlace = computed(() => {
  const item = virtualizer.value.getVirtualItems().find((one) => one.index === at.value)
  if (!item) return null
  const left = NAME_WIDTH + COLUMN_WIDTHS.slice(0, current.value.column + 1).reduce((sum, w) => sum + w, 0) + 6
  const beside = left + PEEK_WIDTH < width.value
  const offset = virtualizer.value.scrollOffset ?? 0
  const lower = item.start - offset > height.value - 230
  const top = (beside === lower ? item.end : item.start) - offset
  return {
    left: `${beside ? left : Math.max(8, width.value - PEEK_WIDTH - 24)}px`,
    top: `${top}px`,
    transform: lower ? 'translateY(-100%)' : 'none',
  }
})
defineExpose({ focus: () => scroller.value?.focus() })
// Keys work at once, but whoever types in the question bar already is left in peace.
onMounted(() => document.activeElement === document.body && scroller.value?.focus({ preventScroll: true }))
</script>

<template>
  <div class="flex h-full min-h-0 flex-col">
    <div
      class="grid border-b border-ink"
      :style="{ gridTemplateColumns: `${NAME_WIDTH}px ${COLUMN_WIDTHS.map((w) => `${w}px`).join(' ')} 1fr` }"
      aria-hidden="true"
    >
      <div class="px-4 pt-1.5 pb-1.5 text-xs text-soft">Subnet</div>
      <div v-for="column in COLUMNS" :key="column.key" class="px-2.5 pt-1.5 pb-1.5">
        <span class="block font-semibold">{{ column.title }}</span>
        <span class="block text-xs text-soft">{{
          column.key === 'sameNetwork'
            ? 'built in, unless steered'
            : `${waysInColumn(rows, column.key)} ${waysInColumn(rows, column.key) === 1 ? 'way' : 'ways'}`
        }}</span>
      </div>
    </div>
    <div class="relative min-h-0 flex-1">
      <div
        ref="scroller"
        class="relative h-full overflow-auto outline-none"
        role="grid"
        tabindex="0"
        aria-label="Ways out of every subnet"
        :aria-rowcount="items.length"
        :aria-colcount="COLUMNS.length + 1"
        :aria-activedescendant="at >= 0 ? cellId(at, current.column) : undefined"
        @keydown="onKey"
        @focus="hasFocus = true"
        @blur="hasFocus = false"
      >
        <div class="relative w-full" role="rowgroup" :style="{ height: `${virtualizer.getTotalSize()}px` }">
          <template v-for="virtual in virtualizer.getVirtualItems()" :key="virtual.key as string">
            <div
              v-if="items[virtual.index]!.kind === 'network'"
              role="row"
              :aria-rowindex="virtual.index + 1"
              class="absolute top-0 left-0 flex w-full items-end gap-2 border-b border-rule px-4 pb-1"
              :style="{ height: `${virtual.size}px`, transform: `translateY(${virtual.start}px)` }"
            >
              <div role="rowheader" class="flex items-baseline gap-2">
                <template v-for="item in [items[virtual.index] as Extract<Item, { kind: 'network' }>]" :key="item.network.id">
                  <span class="text-base font-semibold">{{ item.network.id }}</span>
                  <span class="mono text-soft">{{ item.network.ranges.join('  ') }}</span>
                  <span class="text-xs text-soft">{{ item.network.behaviour }}, {{ item.network.region ?? 'all regions' }}</span>
                </template>
              </div>
            </div>
            <div
              v-for="item in items[virtual.index]!.kind === 'subnet' ? [items[virtual.index] as Extract<Item, { kind: 'subnet' }>] : []"
              :key="item.subnet.id"
              role="row"
              :aria-rowindex="virtual.index + 1"
              class="absolute top-0 left-0 grid w-full border-b border-hair"
              :style="{
                height: `${virtual.size}px`,
                transform: `translateY(${virtual.start}px)`,
                gridTemplateColumns: `${NAME_WIDTH}px ${COLUMN_WIDTHS.map((w) => `${w}px`).join(' ')} 1fr`,
              }"
            >
              <div role="rowheader" class="flex items-center gap-2 overflow-hidden pr-2 pl-4 whitespace-nowrap" :title="item.subnet.id">
                <span class="truncate">{{ item.name }}</span>
                <span v-if="item.subnet.role" class="text-xs text-soft">{{ item.subnet.role }}</span>
                <span class="ml-auto text-xs text-faint">{{ item.subnet.zone ?? item.subnet.region }}</span>
              </div>
              <div
                v-for="(cell, column) in item.cells"
                :id="cellId(virtual.index, column)"
                :key="column"
                role="gridcell"
                :aria-selected="virtual.index === at && column === current.column"
                class="flex cursor-pointer items-center gap-[7px] overflow-hidden pr-2 pl-2 whitespace-nowrap"
                :class="virtual.index === at && column === current.column ? (hasFocus ? 'bg-wash outline-2 -outline-offset-1 outline-focus' : 'bg-wash') : ''"
                @click="(moveTo(virtual.index, column), (peek = true))"
                @dblclick="ask"
              >
                <WayBadge :kind="cell.kind" />
                <span class="truncate" :class="cell.kind === 'lost' ? 'text-faint' : ''">{{ cell.text }}</span>
                <span v-if="cell.others > 0" class="text-xs text-soft" :title="`${cell.others} other way${cell.others > 1 ? 's' : ''}`"
                  >+{{ cell.others }}</span
                >
                <ProblemMark v-if="cell.mark" :mark="cell.mark" class="ml-auto" />
              </div>
            </div>
          </template>
        </div>
        <p v-if="items.length === 0" class="p-4 text-soft">{{ onlyProblems ? 'No subnet has a problem here.' : 'This estate has no subnets yet.' }}</p>
      </div>
      <div v-if="peek && currentItem && currentCell && peekPlace" class="absolute z-10" :style="peekPlace">
        <ExitPeek :subnet="currentItem.subnet.id" :column="COLUMNS[current.column]!.key" :cell="currentCell" />
      </div>
    </div>
  </div>
</template>
