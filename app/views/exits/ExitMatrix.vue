<script setup lang="ts">
import type { MarkedRow } from '@salt-trail/core'
import { useElementSize, useEventListener } from '@vueuse/core'
import { useVirtualizer } from '@tanstack/vue-virtual'
import type { Item, SubnetItem } from '~/views/exits/arrange'
import { shownColumns, spreadOver, type OpenColumn } from '~/views/exits/columns'
import type { Cell, ColumnKey, Direction } from '~/views/exits/cells'
import type { MatrixPlace } from '~/views/exits/place'
import type { Outline } from '~/api/answers'
import type { BaseCells } from '~/views/exits/useBaseCells'
import { useFetchedCells } from '~/views/exits/useFetchedCells'

/**
 * The matrix: a row for each subnet, in groups, a column for each kind of destination. Only the
 * rows in sight are in the page. One cell is the current one; arrows move it.
 */
const props = defineProps<{
  outline: Outline
  rows: readonly MarkedRow[]
  items: readonly Item[]
  open: readonly string[]
  selected: ReadonlySet<string>
  direction: Direction
  /** Which members of a long column are wanted, by a part of their names. */
  like: string
  /** What cells say in the base of the draft that is looked at. */
  baseCells: BaseCells
}>()
const emit = defineEmits<{
  like: [text: string]
  trace: [question: { from: string; to: string }]
  toggle: [column: ColumnKey]
  select: [subnets: ReadonlySet<string>]
  /** Opens what is alike, or folds it. */
  fold: [id: string]
}>()

/** The current cell: a subnet, and a column or one member of it. Null before the first move. */
const place = defineModel<MatrixPlace | null>('place', { required: true })
/** Two subnets under each other. */
const pair = defineModel<readonly [string, string] | null>('compared', { required: true })

const NAME_WIDTH = 290
const ROW_HEIGHT = 29
/** How many rows are drawn above and below those in sight. */
const OVERSCAN = 6
const scroller = ref<HTMLElement | null>(null)
const { height, width } = useElementSize(scroller)
const columns = computed(() =>
  spreadOver(
    shownColumns(props.outline, props.open, props.direction, props.like),
    width.value - NAME_WIDTH,
  ),
)
const template = computed(
  () => `${NAME_WIDTH}px ${columns.value.map((column) => `${column.width}px`).join(' ')}`,
)
const wholeWidth = computed(() =>
  columns.value.reduce((sum, column) => sum + column.width, NAME_WIDTH),
)

/**
 * How far the matrix is scrolled to the right. Nothing else is read while it scrolls: computing
 * styles in each frame makes scrolling slow.
 */
const shift = ref(0)
useEventListener(scroller, 'scroll', () => (shift.value = scroller.value?.scrollLeft ?? 0), {
  passive: true,
})
const shiftTo = (left: number): void => void scroller.value?.scrollTo({ left })
const virtualizer = useVirtualizer(
  computed(() => ({
    count: props.items.length,
    getScrollElement: () => scroller.value,
    estimateSize: (index: number) => (props.items[index]?.kind === 'group' ? 38 : ROW_HEIGHT),
    overscan: OVERSCAN,
    getItemKey: (index: number) => {
      const item = props.items[index]!
      return item.kind === 'group' ? `group ${item.id}` : `subnet ${item.subnet.id}`
    },
  })),
)
/**
 * Rows that scroll into view reuse the elements of rows that left it, which costs less than
 * creating new ones.
 */
const slots = computed(() => Math.ceil(height.value / ROW_HEIGHT) + 2 * OVERSCAN + 2)
const inSight = computed(() =>
  virtualizer.value.getVirtualItems().flatMap(({ index, start, size }) => {
    const item = props.items[index]
    return item ? [{ item, index, start, size, slot: `${item.kind} ${index % slots.value}` }] : []
  }),
)

const fetched = useFetchedCells()
const { failure } = fetched
const openMembers = computed(() => {
  const byColumn = new Map<OpenColumn, string[]>()
  for (const { key, member } of columns.value)
    if (member !== null)
      byColumn.set(key as OpenColumn, [...(byColumn.get(key as OpenColumn) ?? []), member])
  return byColumn
})
watch(
  [inSight, openMembers, () => props.direction],
  () => {
    const subnets = inSight.value.flatMap(({ item }) =>
      item.kind === 'subnet' ? [item.subnet.id] : [],
    )
    if (props.direction === 'entering') void fetched.fetchEntering(subnets)
    for (const [column, members] of openMembers.value)
      void fetched.fetchMembers(props.direction, column, members, subnets)
  },
  { immediate: true },
)
const cellOfItem = (item: SubnetItem, column: number): Cell | null => {
  const shown = columns.value[column]
  if (!shown) return null
  if (props.direction === 'leaving' && shown.member === null) return item.cells?.[shown.key] ?? null
  const found = props.direction === 'entering' ? item.row?.entering : item.row?.findings
  return fetched.cellAt(item.subnet.id, props.direction, shown.key, shown.member, found)
}

const current = computed(() => {
  const { subnet = '', column = '', member = null } = place.value ?? {}
  return {
    subnet,
    column: Math.max(
      0,
      columns.value.findIndex((one) => one.key === column && one.member === member),
    ),
  }
})
const peek = ref(true)
const hasFocus = ref(false)
const subnetIndexes = computed(() =>
  props.items.flatMap((item, index) => (item.kind === 'subnet' ? [index] : [])),
)
const at = computed(() => {
  const found = props.items.findIndex(
    (item) => item.kind === 'subnet' && item.all.includes(current.value.subnet),
  )
  return found >= 0 ? found : (subnetIndexes.value[0] ?? -1)
})
const currentItem = computed(() => {
  const item = props.items[at.value]
  return item?.kind === 'subnet' ? item : null
})
const currentCell = computed(() =>
  currentItem.value ? cellOfItem(currentItem.value, current.value.column) : null,
)

function moveTo(index: number, column: number): void {
  const item = props.items[index]
  if (item?.kind !== 'subnet') return
  const to = Math.min(Math.max(column, 0), columns.value.length - 1)
  const { key, member } = columns.value[to]!
  place.value = { subnet: item.subnet.id, column: key, member }
  virtualizer.value.scrollToIndex(index)
  const left = columns.value.slice(0, to).reduce((sum, one) => sum + one.width, 0)
  const right = left + columns.value[to]!.width + NAME_WIDTH
  if (left < shift.value) shiftTo(left)
  else if (right > shift.value + width.value) shiftTo(right - width.value)
}

// Rows share these objects: a new one for each row would redraw all rows with every move.
function pick(index: number, column: number): void {
  moveTo(index, column)
  peek.value = true
}
function selectAt(index: number): void {
  const item = props.items[index]
  if (item?.kind !== 'subnet') return
  toggle(item)
  moveTo(index, current.value.column)
}

function step(by: number, selecting = false): void {
  const place = subnetIndexes.value.indexOf(at.value)
  const next =
    subnetIndexes.value[Math.min(Math.max(place + by, 0), subnetIndexes.value.length - 1)]
  if (next === undefined) return
  if (selecting) {
    const [low, high] = [at.value, next].sort((a, b) => a - b)
    const ids = props.items
      .slice(low, high! + 1)
      .flatMap((item) => (item.kind === 'subnet' ? item.all : []))
    emit('select', new Set([...props.selected, ...ids]))
  }
  moveTo(next, current.value.column)
}

/** A row that stands for several is selected with all of them. */
const isSelected = (item: SubnetItem): boolean => item.all.every((id) => props.selected.has(id))

function toggle(item: SubnetItem): void {
  const next = new Set(props.selected)
  const was = isSelected(item)
  for (const id of item.all) {
    if (was) next.delete(id)
    else next.add(id)
  }
  emit('select', next)
}

const itemOf = (id: string): SubnetItem | undefined =>
  props.items.find((item): item is SubnetItem => item.kind === 'subnet' && item.subnet.id === id)

/** Two selected rows; or the one selected, else the one before, with the current one. */
function compare(): void {
  const chosen = [...props.selected].flatMap((id) => itemOf(id) ?? [])
  const own = currentItem.value
  if (chosen.length === 2) pair.value = [chosen[0]!.subnet.id, chosen[1]!.subnet.id]
  else if (own) {
    const before = props.items[subnetIndexes.value[subnetIndexes.value.indexOf(at.value) - 1] ?? -1]
    const other = chosen.length === 1 && chosen[0] !== own ? chosen[0]! : before
    if (other?.kind === 'subnet') pair.value = [other.subnet.id, own.subnet.id]
  }
}
const compared = computed(() => {
  const [a, b] = (pair.value ?? []).map(itemOf)
  return a && b ? ([a, b] as const) : null
})
const comparedColumns = computed(() => {
  const both = compared.value
  if (!both) return []
  return columns.value.flatMap(({ key, title }, index) => {
    const [a, b] = both.map((item) => cellOfItem(item, index))
    return a && b ? [{ key, title, a, b }] : []
  })
})

function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const page = Math.max(1, Math.floor(height.value / ROW_HEIGHT) - 2)
  const moves: Record<string, () => void> = {
    ArrowDown: () => step(1, event.shiftKey),
    ArrowUp: () => step(-1, event.shiftKey),
    PageDown: () => step(page, event.shiftKey),
    PageUp: () => step(-page, event.shiftKey),
    ArrowRight: () => moveTo(at.value, current.value.column + 1),
    ArrowLeft: () => moveTo(at.value, current.value.column - 1),
    Home: () => step(-props.items.length, event.shiftKey),
    End: () => step(props.items.length, event.shiftKey),
    ' ': () => (peek.value = !peek.value),
    x: () => currentItem.value && toggle(currentItem.value),
    o: openAlike,
    c: compare,
    Escape: () => {
      if (pair.value) pair.value = null
      else if (peek.value) peek.value = false
      else emit('select', new Set())
    },
    Enter: ask,
  }
  const move = moves[event.key]
  if (!move) return
  event.preventDefault()
  move()
}

/** Opens the rows that are like the current one, or folds them. */
function openAlike(): void {
  const group = props.items.slice(0, at.value).findLast((item) => item.kind === 'group')
  const fold = currentItem.value?.fold ?? group?.fold ?? null
  if (fold !== null) emit('fold', fold)
}

/** Shows the finding of the cell, if it has one; else the widest way. */
function ask(): void {
  const cell = currentCell.value
  const found = cell?.found.find((one) => one.family === cell.mark)?.question
  const way = cell?.ways.find((one) => one.ranges === null) ?? cell?.ways[0]
  const question = found ?? way?.question
  if (question) emit('trace', question)
}

/**
 * Under the row it is about, or over it where there is no room, so that it never covers that row;
 * beside the cell where there is room, so that the next cell of the column can be pointed at.
 */
const PEEK_WIDTH = 540
const peekPlace = computed(() => {
  const item = virtualizer.value.getVirtualItems().find((one) => one.index === at.value)
  if (!item) return null
  const upTo = columns.value.slice(0, current.value.column + 1)
  const left = NAME_WIDTH + upTo.reduce((sum, one) => sum + one.width, 0) + 6 - shift.value
  const offset = virtualizer.value.scrollOffset ?? 0
  const isLow = item.start - offset > height.value - 230
  return {
    left: `${Math.max(8, Math.min(left, width.value - PEEK_WIDTH - 24))}px`,
    top: `${(isLow ? item.start : item.end) - offset}px`,
    transform: isLow ? 'translateY(-100%)' : 'none',
  }
})
defineExpose({ focus: () => scroller.value?.focus(), compare })
// Keys work at once, unless the question bar already has the focus.
onMounted(() => {
  if (document.activeElement === document.body) scroller.value?.focus({ preventScroll: true })
  if (place.value) void nextTick(() => virtualizer.value.scrollToIndex(at.value))
})
</script>

<template>
  <div class="flex h-full min-h-0 flex-col">
    <ExitHead
      :outline="outline"
      :rows="rows"
      :columns="columns"
      :open="open"
      :direction="direction"
      :template="template"
      :shift="shift"
      :like="like"
      @toggle="emit('toggle', $event)"
      @like="emit('like', $event)"
    />
    <div class="relative min-h-0 flex-1">
      <div
        ref="scroller"
        class="relative h-full overflow-auto outline-none"
        role="grid"
        tabindex="0"
        :aria-label="
          direction === 'entering' ? 'Ways into every subnet' : 'Ways out of every subnet'
        "
        aria-multiselectable="true"
        :aria-rowcount="items.length"
        :aria-colcount="columns.length + 1"
        :aria-activedescendant="at >= 0 ? `cell-${at}-${current.column}` : undefined"
        @keydown="onKey"
        @focus="hasFocus = true"
        @blur="hasFocus = false"
      >
        <div
          class="relative"
          role="rowgroup"
          :style="{
            height: `${virtualizer.getTotalSize()}px`,
            width: `max(100%, ${wholeWidth}px)`,
          }"
        >
          <template v-for="{ item, index, slot, size, start } in inSight" :key="slot">
            <div
              v-if="item.kind === 'group'"
              role="row"
              :aria-rowindex="index + 1"
              class="absolute top-0 left-0 flex w-full items-end gap-2 border-b border-rule px-4 pb-1"
              :style="{ height: `${size}px`, transform: `translateY(${start}px)` }"
            >
              <div role="rowheader" class="sticky left-4 flex items-baseline gap-2">
                <span class="text-base font-semibold">{{ item.title }}</span>
                <span v-if="item.ranges" class="mono text-soft">{{ item.ranges }}</span>
                <span class="text-xs text-soft">{{ item.about }}</span>
                <button
                  v-if="item.fold !== null"
                  type="button"
                  tabindex="-1"
                  class="cursor-pointer border-b border-rule text-xs text-soft hover:text-ink"
                  @click="emit('fold', item.fold)"
                >
                  {{ item.stands > 1 ? 'show them' : 'fold with its likes' }}
                </button>
              </div>
            </div>
            <ExitRow
              v-else
              :item="item"
              :index="index"
              :columns="columns"
              :template="template"
              :cell-of="cellOfItem"
              :current="index === at ? current.column : -1"
              :has-focus="hasFocus"
              :selected="isSelected(item)"
              :start="start"
              :size="size"
              :base-cells="baseCells"
              @pick="pick"
              @ask="ask"
              @select="selectAt"
              @fold="emit('fold', $event)"
            />
          </template>
        </div>
        <slot v-if="items.length === 0" />
      </div>
      <div
        v-if="peek && !compared && currentItem && currentCell && peekPlace"
        class="absolute z-10"
        :style="peekPlace"
      >
        <ExitPeek
          :subnet="currentItem.subnet.id"
          :column="columns[current.column]!.key"
          :where="columns[current.column]!.where"
          :direction="direction"
          :cell="currentCell"
          :unlike="currentItem.unlike"
        />
      </div>
      <p v-if="failure" role="alert" class="absolute bottom-2 left-4 bg-paper px-2 text-leak">
        {{ failure }}
      </p>
    </div>
    <ExitCompare
      v-if="compared"
      :a="compared[0].subnet.id"
      :b="compared[1].subnet.id"
      :columns="comparedColumns"
      @close="pair = null"
    />
  </div>
</template>
