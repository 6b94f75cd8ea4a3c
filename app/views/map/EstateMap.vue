<script setup lang="ts">
import { joinKey, type FindingFamily, type MapChange } from '@salt-trail/core'
import { useElementSize } from '@vueuse/core'
import { nameOf, type Box, type PlacedMap, type PlacedNode, type Point } from '~/views/map/layout'
import { aboutOf, fitted, rangesText, spokenText } from '~/views/map/mark-words'
import { CHANGE_SIGNS, strokeOfJoin, strokeOfWay } from '~/views/map/strokes'
import type { WayLine } from '~/views/map/way-lines'

/** A line over the map: a way, or one of many. */
export interface DrawnLine extends Pick<WayLine, 'lane' | 'kind' | 'isLost'> {
  readonly points: readonly Point[]
}

/**
 * The map as it is drawn: marks, what joins them, and the ways over them. It is read, zoomed and
 * clicked, never edited.
 */
const props = defineProps<{
  map: PlacedMap
  /**
   * The objects that the ways or the finding on the map concern; the rest is dimmed. Null: nothing
   * is laid over the map.
   */
  lit: ReadonlySet<string> | null
  lines: readonly DrawnLine[]
  joined: ReadonlyMap<string, readonly string[]>
  /** What is wrong at an object, the gravest of it. */
  problems: ReadonlyMap<string, FindingFamily>
  /** What is only in one of two states, by reference or join; empty where one is shown. */
  changes: ReadonlyMap<string, MapChange>
}>()
const selected = defineModel<string | null>('selected', { required: true })

const MARGIN = 16
const whole = computed(() => ({
  x: -MARGIN,
  y: -MARGIN,
  width: props.map.width + 2 * MARGIN,
  height: props.map.height + 2 * MARGIN,
}))
const svg = ref<SVGSVGElement | null>(null)
const { width: shownWidth, height: shownHeight } = useElementSize(svg)
/** The zoom is limited to sizes that are easy to read, unless the whole map is asked for. */
const [LARGEST, SMALLEST] = [1.35, 1]
function fitting(all = false): Box {
  const { x, y, width, height } = whole.value
  if (shownWidth.value === 0) return { ...whole.value }
  const scale = Math.min(LARGEST, shownWidth.value / width, shownHeight.value / height)
  const used = all ? scale : Math.max(scale, SMALLEST)
  const [w, h] = [shownWidth.value / used, shownHeight.value / used]
  const shown = litBox.value
  const middleY = shown.y + shown.height / 2
  // As far to the left as what is shown allows, since the outside stands there.
  const leftmost = Math.min(shown.x + shown.width + MARGIN - w, shown.x - MARGIN)
  return {
    x: within(leftmost, x, x + width - w),
    y: within(middleY - h / 2, y, y + height - h),
    width: w,
    height: h,
  }
}
/** Between two ends; in the middle of what is smaller than its frame. */
const within = (at: number, low: number, high: number): number =>
  high < low ? (low + high) / 2 : Math.min(Math.max(at, low), high)
/** The place of what is laid over the map or selected; else the top of the map. */
const litBox = computed((): Box => {
  const shown = props.map.nodes.filter(({ node, chips }) =>
    props.lit !== null
      ? props.lit.has(node.ref)
      : [node, ...chips].some(({ ref }) => ref === selected.value),
  )
  if (shown.length === 0) return { x: 0, y: 0, width: 0, height: 0 }
  const [x, y] = [Math.min(...shown.map((one) => one.x)), Math.min(...shown.map((one) => one.y))]
  return {
    x,
    y,
    width: Math.max(...shown.map((one) => one.x + one.width)) - x,
    height: Math.max(...shown.map((one) => one.y + one.height)) - y,
  }
})
const sight = ref(fitting())
/** Whether the map was moved or zoomed by hand. */
let isMoved = false
watch([whole, shownWidth, shownHeight, () => props.lit], ([now], [before]) => {
  if (now !== before || !isMoved) sight.value = fitting()
})

function zoom(by: number, round?: Point): void {
  isMoved = true
  const { x, y, width, height } = sight.value
  const at = round ?? { x: x + width / 2, y: y + height / 2 }
  const next = Math.min(Math.max(width * by, 120), whole.value.width * 1.5)
  const factor = next / width
  sight.value = {
    x: at.x - (at.x - x) * factor,
    y: at.y - (at.y - y) * factor,
    width: next,
    height: height * factor,
  }
}
const fit = (): void => {
  isMoved = true
  sight.value = fitting(true)
}
function placeOf(event: MouseEvent): Point {
  const matrix = svg.value!.getScreenCTM()!.inverse()
  const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix)
  return { x, y }
}
const onWheel = (event: WheelEvent): void =>
  zoom(event.deltaY > 0 ? 1.15 : 1 / 1.15, placeOf(event))
let grabbed: Point | null = null
function onDown(event: PointerEvent): void {
  if ((event.target as Element).closest('[data-ref]')) return
  grabbed = placeOf(event)
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function onMove(event: PointerEvent): void {
  if (!grabbed) return
  const now = placeOf(event)
  isMoved = true
  sight.value = {
    ...sight.value,
    x: sight.value.x + grabbed.x - now.x,
    y: sight.value.y + grabbed.y - now.y,
  }
}
const onUp = (): void => void (grabbed = null)

/**
 * Everything that can be selected, with its middle, so that arrows lead to the nearest in their
 * direction.
 */
const stops = computed(() =>
  props.map.nodes.flatMap((one) =>
    [one, ...one.chips].map((box) => ({
      ref: 'node' in box ? box.node.ref : box.ref,
      x: box.x + box.width / 2,
      y: box.y + ('node' in box && box.chips.length > 0 ? 14 : box.height / 2),
    })),
  ),
)
const current = computed(() =>
  stops.value.some(({ ref }) => ref === selected.value) ? selected.value : stops.value[0]?.ref,
)
function step(dx: number, dy: number): void {
  const from = stops.value.find(({ ref }) => ref === current.value)
  if (!from) return
  const scored = stops.value.flatMap((to) => {
    const along = (to.x - from.x) * dx + (to.y - from.y) * dy
    const across = Math.abs((to.x - from.x) * dy) + Math.abs((to.y - from.y) * dx)
    return along > 4 ? [{ to, cost: along + 2.5 * across }] : []
  })
  if (scored.length === 0) return
  selected.value = scored.reduce((a, b) => (b.cost < a.cost ? b : a)).to.ref
  void nextTick(() =>
    svg.value?.querySelector<SVGElement>(`[data-ref="${CSS.escape(selected.value!)}"]`)?.focus(),
  )
}
function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const does: Record<string, () => void> = {
    ArrowLeft: () => step(-1, 0),
    ArrowRight: () => step(1, 0),
    ArrowUp: () => step(0, -1),
    ArrowDown: () => step(0, 1),
    '+': () => zoom(1 / 1.3),
    '-': () => zoom(1.3),
    '0': fit,
  }
  const act = does[event.key]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  act()
}

const path = (points: readonly Point[]): string =>
  points
    .map(({ x, y }, index) => `${index === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`)
    .join(' ')
const isDim = (ref: string): boolean => props.lit !== null && !props.lit.has(ref)
/** Words have an outline in the background's colour, so that lines pass under them. */
const HALO = {
  'paint-order': 'stroke',
  stroke: 'var(--paper)',
  'stroke-width': 3,
  'stroke-linejoin': 'round',
} as const
const outline = ({ node }: PlacedNode): string => {
  if (node.ref === selected.value) return 'var(--focus)'
  if (props.changes.has(node.ref)) return 'var(--draft)'
  return node.up ? 'var(--ink)' : 'var(--leak)'
}
const isGone = (ref: string): boolean => props.changes.get(ref) === 'removed'
/** What is written on a mark or a subnet, with what becomes of it. */
const written = (ref: string, name: string): string => {
  const change = props.changes.get(ref)
  return change ? `${CHANGE_SIGNS[change]}${name}` : name
}
/** The same, for those who hear it. */
const becomes = (ref: string): string => {
  const change = props.changes.get(ref)
  return change ? `, ${change} by the draft` : ''
}
const chipOutline = (ref: string): string => {
  if (ref === selected.value) return 'var(--focus)'
  if (props.changes.has(ref)) return 'var(--draft)'
  return props.lit?.has(ref) ? 'var(--ink)' : 'var(--rule)'
}
/** Where there are very many edges, only those of what is selected or shown are drawn. */
const MANY_EDGES = 160
const drawnEdges = computed(() => {
  if (props.map.edges.length <= MANY_EDGES) return props.map.edges
  return props.map.edges.filter(
    ({ edge }) => edge.from === selected.value || edge.to === selected.value,
  )
})
const boxFill = (ref: string): string => (ref === selected.value ? 'var(--wash)' : 'var(--paper)')
defineExpose({ fit, zoom, element: svg })
</script>

<template>
  <!-- A drawing has no colours of its own: it is saved with those the page has. -->
  <svg
    ref="svg"
    class="h-full w-full touch-none select-none"
    :class="grabbed ? 'cursor-grabbing' : 'cursor-grab'"
    :viewBox="`${sight.x} ${sight.y} ${sight.width} ${sight.height}`"
    role="group"
    aria-label="Map of the estate"
    font-family="var(--font-sans)"
    @wheel.prevent="onWheel"
    @pointerdown="onDown"
    @pointermove="onMove"
    @pointerup="onUp"
    @pointercancel="onUp"
    @keydown="onKey"
  >
    <g fill="none" aria-hidden="true">
      <path
        v-for="({ edge, points }, index) in drawnEdges"
        :key="index"
        :d="path(points)"
        v-bind="strokeOfJoin(edge.by !== null, changes.get(joinKey(edge)))"
        :opacity="lit !== null && (isDim(edge.from) || isDim(edge.to)) ? 0.25 : 1"
      >
        <title v-if="edge.by">{{ nameOf(edge.by) }}</title>
      </path>
    </g>
    <!-- Networks lie under the ways, everything else over them: a way goes behind a mark and into a network. -->
    <g aria-hidden="true">
      <rect
        v-for="one in map.nodes.filter(({ chips }) => chips.length > 0)"
        :key="one.node.ref"
        :x="one.x"
        :y="one.y"
        :width="one.width"
        :height="one.height"
        rx="2"
        :fill="boxFill(one.node.ref)"
        :stroke="outline(one)"
        :stroke-width="one.node.ref === selected ? 2 : 1"
        :opacity="isDim(one.node.ref) ? 0.35 : 1"
      />
    </g>
    <g
      fill="none"
      stroke-linejoin="round"
      stroke-linecap="round"
      aria-hidden="true"
      pointer-events="none"
    >
      <path
        v-for="(line, index) in lines"
        :key="index"
        :d="path(line.points)"
        v-bind="strokeOfWay(line)"
      />
    </g>
    <JoinNames :edges="drawnEdges" :is-dim="isDim" />
    <g v-for="one in map.nodes" :key="one.node.ref" :opacity="isDim(one.node.ref) ? 0.35 : 1">
      <g
        :data-ref="one.node.ref"
        role="button"
        :tabindex="one.node.ref === current ? 0 : -1"
        :aria-pressed="one.node.ref === selected"
        :aria-label="
          spokenText(one.node, one.chips.length > 0, joined.get(one.node.ref) ?? []) +
          becomes(one.node.ref)
        "
        class="cursor-pointer outline-none"
        @click="selected = one.node.ref"
      >
        <rect
          :x="one.x"
          :y="one.y"
          :width="one.width"
          :height="one.chips.length > 0 ? 26 : one.height"
          :rx="one.node.column === 'outside' ? 14 : 2"
          :fill="one.chips.length > 0 ? 'transparent' : boxFill(one.node.ref)"
          :stroke="one.chips.length > 0 ? 'none' : outline(one)"
          :stroke-width="one.node.ref === selected ? 2 : 1"
          :stroke-dasharray="one.node.up && !isGone(one.node.ref) ? undefined : '4 3'"
        />
        <text
          :x="one.x + 10"
          :y="one.y + 17"
          font-size="13"
          font-weight="600"
          fill="var(--ink)"
          v-bind="HALO"
        >
          {{ fitted(written(one.node.ref, one.node.name), one.width - 14) }}
          <tspan
            v-if="one.chips.length > 0"
            dx="8"
            font-size="12"
            font-weight="400"
            fill="var(--soft)"
          >
            {{ rangesText(one.node.about) }}
          </tspan>
        </text>
        <ProblemMark
          v-if="problems.has(one.node.ref)"
          :mark="problems.get(one.node.ref)!"
          :x="one.x + one.width - 18"
          :y="one.y + 5"
        />
        <text
          v-if="one.chips.length === 0"
          :x="one.x + 10"
          :y="one.y + 31"
          font-size="12"
          fill="var(--soft)"
        >
          {{ fitted(aboutOf(one.node), one.width - 10) }}
        </text>
      </g>
      <text
        v-for="zone in one.zones"
        :key="zone.name"
        :x="zone.x"
        :y="zone.y + 3"
        font-size="12"
        fill="var(--soft)"
        aria-hidden="true"
        v-bind="HALO"
      >
        {{ zone.name }}
      </text>
      <g
        v-for="chip in one.chips"
        :key="chip.ref"
        :data-ref="chip.ref"
        role="button"
        :tabindex="chip.ref === current ? 0 : -1"
        :aria-pressed="chip.ref === selected"
        :aria-label="`${nameOf(chip.ref)}, subnet${chip.role ? `, ${chip.role}` : ''}, in ${one.node.name}${becomes(chip.ref)}`"
        class="cursor-pointer outline-none"
        @click="selected = chip.ref"
      >
        <rect
          :x="chip.x"
          :y="chip.y"
          :width="chip.width"
          :height="chip.height"
          rx="2"
          :fill="chip.ref === selected || lit?.has(chip.ref) ? 'var(--wash)' : 'var(--ground)'"
          :stroke="chipOutline(chip.ref)"
          :stroke-width="chip.ref === selected || changes.has(chip.ref) ? 2 : 1"
          :stroke-dasharray="isGone(chip.ref) ? '4 3' : undefined"
        />
        <text :x="chip.x + 7" :y="chip.y + 14" font-size="12" fill="var(--ink)">
          {{
            fitted(written(chip.ref, chip.name), chip.width - (problems.has(chip.ref) ? 24 : 10))
          }}
        </text>
        <ProblemMark
          v-if="problems.has(chip.ref)"
          :mark="problems.get(chip.ref)!"
          :size="11"
          :x="chip.x + chip.width - 15"
          :y="chip.y + 4.5"
        />
      </g>
    </g>
    <g aria-hidden="true" pointer-events="none">
      <g
        v-for="(line, index) in lines.filter((one) => one.isLost && one.lane !== 'before')"
        :key="index"
        :transform="`translate(${line.points.at(-1)!.x + 26} ${line.points.at(-1)!.y})`"
      >
        <circle r="8" fill="var(--hole)" stroke="var(--paper)" stroke-width="2" />
        <circle r="3.6" fill="none" stroke="var(--ground)" stroke-width="2" />
      </g>
    </g>
  </svg>
</template>
