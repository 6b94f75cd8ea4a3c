<script setup lang="ts">
import { graphDot, type Trace } from '@salt-trail/core'
import type { Outline } from '~/api/answers'
import { useAnswer } from '~/api/useAnswer'
import { WAY_WORDS } from '~/views/exits/way-words'
import type EstateMapComponent from '~/views/map/EstateMap.vue'
import type { DrawnLine } from '~/views/map/EstateMap.vue'
import { svgText } from '~/views/map/save-svg'
import { exitLines, pathOf, placesOf, traceLines, type WayLine } from '~/views/map/way-lines'
import { readOver, showEnd } from '~/questions/question-text'
import { saveText } from '~/tables/save'
import { decidingBranch } from '~/views/trace/deciding-branch'
import { useEstateMap } from '~/views/map/useEstateMap'

/**
 * The estate laid out by the program: the outside, the doors, what translates and inspects, the
 * networks; and ways over it.
 */
const estate = useEstate()
useHead({ title: computed(() => `Map, ${estate.outline?.name ?? 'Salt Trail'}`) })

const openedText = textInAddress('open', 'replace')
const opened = computed(() => openedText.value.split(',').filter(Boolean))
const at = textInAddress('at', 'replace')
const network = textInAddress('network', 'replace')
const fingerprint = textInAddress('finding', 'replace')
const show = choiceInAddress('show', 'replace', ['', 'nothing'], '')
const { graph, map, failure } = useEstateMap(() => opened.value)
const drawing = ref<InstanceType<typeof EstateMapComponent> | null>(null)
const selectedSubnet = useSelectedSubnet()
const selected = computed({
  get: () => at.value || null,
  set: (ref) => {
    if (ref?.startsWith('subnets/')) selectedSubnet.value = ref.slice('subnets/'.length)
    at.value = ref ?? ''
  },
})

/**
 * What is drawn over the map: the question's two ways, a network's ways out, or a finding's
 * objects.
 */
const lastTrace = useState<Record<string, string>>('last-trace', () => ({}))
const asked = {
  from: textInAddress('from', 'replace'),
  to: textInAddress('to', 'replace'),
  over: textInAddress('over', 'replace'),
}
const valuesOf = ({ from, to, over }: typeof asked) => ({
  from: from.value,
  to: to.value,
  over: over.value,
})
const question = computed(() => {
  const { from, to, over } = asked.from.value ? valuesOf(asked) : lastTrace.value
  return from && to ? { from, to, over: over || 'tcp 443' } : null
})
const shows = computed((): 'nothing' | 'question' | 'network' | 'finding' => {
  if (fingerprint.value) return 'finding'
  if (network.value) return 'network'
  return show.value === 'nothing' || !question.value ? 'nothing' : 'question'
})
const home = (ref: string): string => {
  if (!ref.startsWith('interfaces/')) return ref
  const id = ref.slice('interfaces/'.length)
  const subnet = homes.value.get(id)
  return subnet ? `subnets/${subnet}` : ref
}
const homes = computed(
  () =>
    new Map(
      (estate.outline?.ends ?? []).flatMap(({ end, home: subnet }) =>
        subnet && end.startsWith('interface:')
          ? [[end.slice('interface:'.length), subnet] as const]
          : [],
      ),
    ),
)

/** What lies over the map: lines, the objects they concern, and what is said of them. */
interface Overlay {
  readonly lines: readonly WayLine[]
  readonly concerned: readonly string[]
  readonly said: string
}
const NOTHING: Overlay = { lines: [], concerned: [], said: '' }

/** Lays something else over the map: a network's ways, nothing, or else the question. */
function lay(wanted: { readonly network?: string; readonly nothing?: boolean }): void {
  show.value = wanted.nothing ? 'nothing' : ''
  network.value = wanted.network ?? ''
  fingerprint.value = ''
}
const transport = computed(() => (question.value ? readOver(question.value.over) : null))
const { answer: trace, failure: traceRefused } = useAnswer<'trace'>(() => {
  if (shows.value !== 'question' || !question.value || estate.fixedBase === null) return null
  if (transport.value === null || typeof transport.value === 'string') return null
  const { from, to } = question.value
  return {
    base: estate.fixedBase,
    path: 'trace',
    body: { from, to, ...transport.value, continue: true },
  }
})
const { answer: foundByPrint, failure: findingRefused } = useAnswer<'findings'>(() =>
  shows.value !== 'finding' || estate.fixedBase === null
    ? null
    : {
        base: estate.fixedBase,
        path: 'findings',
        query: { fingerprint: fingerprint.value, count: 1 },
      },
)
const overlay = computed((): Overlay => {
  if (!estate.outline) return NOTHING
  switch (shows.value) {
    case 'question':
      return trace.value ? questionOverlay(trace.value) : NOTHING
    case 'network':
      return networkOverlay(estate.outline, network.value)
    case 'finding': {
      const finding = foundByPrint.value?.findings[0]
      return finding
        ? { lines: [], concerned: finding.objects.map(home), said: finding.sentence }
        : NOTHING
    }
    default:
      return NOTHING
  }
})
const wrong = computed(() => {
  if (shows.value === 'question' && typeof transport.value === 'string') return transport.value
  if (shows.value === 'finding' && foundByPrint.value?.findings.length === 0)
    return 'this revision has no such finding'
  return traceRefused.value ?? findingRefused.value ?? ''
})
const lines = computed(() => overlay.value.lines)
const concerned = computed(() => overlay.value.concerned)
const said = computed(() => overlay.value.said)

function questionOverlay(answer: Trace): Overlay {
  const { from, to, over } = question.value!
  const { ends } = estate.outline!
  return {
    lines: traceLines(decidingBranch(answer), home),
    concerned: [],
    said: `${showEnd(from, ends)} > ${showEnd(to, ends)} ${over}`,
  }
}
function networkOverlay({ subnets }: Outline, id: string): Overlay {
  const own = new Set(subnets.flatMap((subnet) => (subnet.network === id ? subnet.id : [])))
  const rows = (estate.exits ?? []).filter((row) => own.has(row.subnet))
  return {
    lines: rows.flatMap((row) => [
      ...exitLines(`subnets/${row.subnet}`, row.internet, 'internet'),
      ...exitLines(`subnets/${row.subnet}`, [...row.sites, ...row.services, ...row.otherNetworks]),
    ]),
    concerned: [`networks/${id}`],
    said: `ways out of ${id}`,
  }
}

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
  const refs = [...lines.value.flatMap((line) => line.refs), ...concerned.value]
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
        <label class="flex items-center gap-1.5"
          >over it
          <select
            class="border-b border-rule bg-ground py-0.5 text-ink"
            :value="shows"
            @change="lay({ nothing: ($event.target as HTMLSelectElement).value === 'nothing' })"
          >
            <option value="nothing">nothing</option>
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
        :class="selected ? 'grid-cols-[minmax(0,1fr)_280px]' : 'grid-cols-1'"
      >
        <EstateMap
          ref="drawing"
          v-model:selected="selected"
          :map="map"
          :lit="lit"
          :lines="drawn"
          :joined="joined"
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
