<script setup lang="ts">
import { graphDot } from '@salt-trail/core'
import { WAY_WORDS } from '~/views/exits/way-words'
import type EstateMapComponent from '~/views/map/EstateMap.vue'
import type { DrawnLine } from '~/views/map/EstateMap.vue'
import { svgText } from '~/views/map/save-svg'
import { pathOf, placesOf } from '~/views/map/way-lines'
import { saveText } from '~/tables/save'
import { useEstateMap } from '~/views/map/useEstateMap'
import { useOverlay } from '~/views/map/useOverlay'
import { useProblems } from '~/views/map/useProblems'

/**
 * The estate laid out by the program: the outside, the doors, what translates and inspects, the
 * networks; and ways over it.
 */
const estate = useEstate()
useHead({ title: computed(() => `Map, ${estate.outline?.name ?? 'Salt Trail'}`) })

const openedText = textInAddress('open', 'replace')
const opened = computed(() => openedText.value.split(',').filter(Boolean))
const at = textInAddress('at', 'replace')
const { against } = useWorld()
const { graph, map, changes, failure } = useEstateMap(
  () => opened.value,
  () => against.value,
)
const { shows, question, overlay, wrong, lay } = useOverlay()
const problems = useProblems()
const drawing = ref<InstanceType<typeof EstateMapComponent> | null>(null)
const selectedSubnet = useSelectedSubnet()
const selected = computed({
  get: () => at.value || null,
  set: (ref) => {
    if (ref?.startsWith('subnets/')) selectedSubnet.value = ref.slice('subnets/'.length)
    at.value = ref ?? ''
  },
})

const lines = computed(() => overlay.value.lines)
const concerned = computed(() => overlay.value.concerned)
const said = computed(() => overlay.value.said)

const place = computed(() => (graph.value && map.value ? placesOf(graph.value, map.value) : null))
const drawn = computed((): DrawnLine[] => {
  const at = place.value
  if (!at) return []
  const known = new Map<string, DrawnLine>()
  for (const line of lines.value) {
    const points = pathOf(line, at)
    // Many subnets of a network go the same way: it is drawn once.
    if (points.length > 0)
      known.set(`${line.lane} ${line.kind} ${line.isLost} ${JSON.stringify(points)}`, {
        ...line,
        points,
      })
  }
  return [...known.values()]
})
/** The kinds of way on the map, for its legend. */
const kinds = computed(() =>
  [
    ...new Set(lines.value.flatMap(({ kind }) => (kind === null || kind === 'lost' ? [] : [kind]))),
  ].sort(),
)
const lit = computed((): ReadonlySet<string> | null => {
  const at = place.value
  if (!at || shows.value === 'nothing') return null
  const altered = shows.value === 'difference' ? changes.value.keys() : []
  const refs = [...lines.value.flatMap((line) => line.refs), ...concerned.value, ...altered]
  return new Set(refs.flatMap((ref) => [at.markOf(ref) ?? [], ref].flat()))
})
const joined = computed(() => {
  const out = new Map<string, string[]>()
  const add = (a: string, b: string): void => void out.set(a, [...(out.get(a) ?? []), b])
  for (const { from, to } of graph.value?.edges ?? []) {
    add(from, to)
    add(to, from)
  }
  return out
})

const saveDot = (): void =>
  saveText(
    `${estate.slug}-map.dot`,
    graphDot(graph.value!, estate.outline!.name),
    'text/vnd.graphviz',
  )
function saveSvg(): void {
  const element = drawing.value?.element
  if (element && map.value)
    saveText(
      `${estate.slug}-map.svg`,
      svgText(element, map.value.width + 32, map.value.height + 32),
      'image/svg+xml',
    )
}
const toggleOpen = (id: string, open: boolean): void => {
  const next = open ? [...opened.value, id] : opened.value.filter((one) => one !== id)
  openedText.value = next.join(',')
}
/** Selects what was found; the network of a subnet is unfolded where the map folds networks. */
function find(ref: string): void {
  const subnet = estate.outline?.subnets.find(({ id }) => `subnets/${id}` === ref)
  const isFolded = subnet && graph.value?.folds && !opened.value.includes(subnet.network)
  if (isFolded) toggleOpen(subnet.network, true)
  selected.value = ref
}
const KEYS = [
  { keys: 'arrows', does: 'to the next mark' },
  { keys: '+ −', does: 'zoom' },
  { keys: 'drag', does: 'move' },
  { keys: '0', does: 'all of it' },
]
</script>

<template>
  <AppShell :keys="KEYS">
    <div v-if="estate.outline" class="flex h-full flex-col">
      <h1 class="sr-only">Map of {{ estate.outline.name }}</h1>
      <div class="toolbar border-b border-rule text-soft">
        <FindOnMap v-if="graph" :graph="graph" @found="find" />
        <label class="flex items-center gap-1.5"
          >over it
          <select
            class="border-b border-rule bg-ground py-0.5 text-ink"
            :value="shows"
            @change="
              lay(
                ($event.target as HTMLSelectElement).value as 'nothing' | 'question' | 'difference',
              )
            "
          >
            <option value="nothing">nothing</option>
            <option v-if="against !== null" value="difference">what the draft alters</option>
            <option value="question" :disabled="!question">the question’s two ways</option>
            <option v-if="shows === 'network'" value="network">a network’s ways out</option>
            <option v-if="shows === 'finding'" value="finding">a finding</option>
          </select>
        </label>
        <span v-if="wrong" role="alert" class="truncate text-leak">{{ wrong }}</span>
        <span v-else class="truncate text-ink" role="status">{{ said }}</span>
        <span
          v-if="shows === 'question' && said"
          class="flex shrink-0 items-center gap-3"
          aria-hidden="true"
        >
          <span class="inline-block w-6 border-t-[3px] border-ink" /> there
          <span class="inline-block w-6 border-t-[3px] border-dashed border-focus" /> back
        </span>
        <span
          v-if="shows === 'difference' && lines.length > 0"
          class="flex shrink-0 items-center gap-3"
          aria-hidden="true"
        >
          <span class="inline-block w-6 border-t-2 border-dotted border-ink" /> in the base
          <span class="inline-block w-6 border-t-[3px] border-draft" /> in the draft
        </span>
        <span v-if="shows === 'network'" class="flex items-center gap-3">
          <span v-for="kind in kinds" :key="kind" class="flex items-center gap-1.5"
            ><WayBadge :kind="kind" /> {{ WAY_WORDS[kind] }}</span
          >
        </span>
        <span v-if="graph?.folds && opened.length === 0" class="shrink-0"
          >networks are folded: select one to unfold it</span
        >
        <span v-if="map" class="ml-auto flex shrink-0 items-center gap-4">
          <button
            type="button"
            class="cursor-pointer border-b border-rule hover:text-ink"
            aria-label="closer: zoom in"
            @click="drawing?.zoom(1 / 1.3)"
          >
            closer
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-rule hover:text-ink"
            aria-label="further: zoom out"
            @click="drawing?.zoom(1.3)"
          >
            further
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-rule hover:text-ink"
            @click="drawing?.fit()"
          >
            all of it
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-rule hover:text-ink"
            @click="saveSvg"
          >
            save as SVG
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-rule hover:text-ink"
            @click="saveDot"
          >
            save as DOT
          </button>
        </span>
      </div>
      <p v-if="failure" role="alert" class="p-4 text-leak">{{ failure }}</p>
      <p v-else-if="!map || !graph" role="status" class="p-4 text-soft">laying out the map …</p>
      <p v-else-if="graph.nodes.length <= 1" class="p-4 text-soft">
        This estate has nothing to draw yet.
      </p>
      <div
        v-else
        class="grid min-h-0 flex-1"
        :class="selected ? 'grid-cols-[minmax(0,1fr)_max(280px,18%)]' : 'grid-cols-1'"
      >
        <EstateMap
          ref="drawing"
          v-model:selected="selected"
          :map="map"
          :lit="lit"
          :lines="drawn"
          :joined="joined"
          :changes="changes"
          :problems="problems"
        />
        <div
          v-if="selected"
          class="relative overflow-y-auto border-l border-rule bg-paper"
          tabindex="0"
          aria-label="What is selected"
        >
          <button
            type="button"
            class="absolute top-3 right-3 cursor-pointer text-xs text-soft hover:text-ink"
            @click="selected = null"
          >
            close
          </button>
          <MarkDetail
            :graph="graph"
            :selected="selected"
            :joined="joined"
            :opened="opened"
            @open="toggleOpen($event, true)"
            @close="toggleOpen($event, false)"
            @ways-out="lay({ network: $event })"
            @select="selected = $event"
          />
        </div>
      </div>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
