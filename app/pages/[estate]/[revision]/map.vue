<script setup lang="ts">
import { graphDot, type Finding, type Trace } from '@salt-trail/core'
import { WAY_WORDS } from '~/exits/way-words'
import type EstateMapComponent from '~/components/map/EstateMap.vue'
import type { DrawnLine } from '~/components/map/EstateMap.vue'
import { svgText } from '~/map/save-svg'
import { exitLines, pathOf, placesOf, traceLines, type WayLine } from '~/map/way-lines'
import { readOver, showEnd } from '~/questions/question-text'
import { failureText } from '~/stores/estate'
import { saveText } from '~/tables/save'

/**
 * The estate laid out by the program: the outside, the doors, what translates and inspects, the
 * networks; and ways over it.
 */
const estate = useEstate()
const route = useRoute()
useHead({ title: computed(() => `Map, ${estate.outline?.name ?? 'Salt Trail'}`) })

const text = (value: unknown): string => (typeof value === 'string' ? value : '')
const opened = computed(() => text(route.query.open).split(',').filter(Boolean))
const { graph, map, failure } = useEstateMap(() => opened.value)
const drawing = ref<InstanceType<typeof EstateMapComponent> | null>(null)
const choose = (query: Record<string, string | undefined>): void =>
  void navigateTo({ query: { ...route.query, ...query } }, { replace: true })
const selectedSubnet = useSelectedSubnet()
const selected = computed({
  get: () => text(route.query.at) || null,
  set: (at) => {
    if (at?.startsWith('subnets/')) selectedSubnet.value = at.slice('subnets/'.length)
    choose({ at: at ?? undefined })
  },
})

/**
 * What is drawn over the map: the question's two ways, a network's ways out, or a finding's
 * objects.
 */
const lastTrace = useState<Record<string, string>>('last-trace', () => ({}))
const question = computed(() => {
  const { from, to, over } = route.query.from ? route.query : lastTrace.value
  return from && to ? { from: text(from), to: text(to), over: text(over) || 'tcp 443' } : null
})
const shows = computed((): 'nothing' | 'question' | 'network' | 'finding' => {
  if (route.query.finding) return 'finding'
  if (route.query.network) return 'network'
  return route.query.show === 'nothing' || !question.value ? 'nothing' : 'question'
})
const network = computed(() => text(route.query.network))
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

const lines = shallowRef<readonly WayLine[]>([])
const concerned = shallowRef<readonly string[]>([])
const said = ref('')
const wrong = ref('')
watch(
  [
    shows,
    () => JSON.stringify(question.value),
    network,
    () => route.query.finding,
    () => estate.base,
    () => estate.exits,
    () => estate.outline,
  ],
  async () => {
    lines.value = []
    concerned.value = []
    said.value = ''
    wrong.value = ''
    if (!estate.outline) return
    try {
      if (shows.value === 'question') await showQuestion()
      else if (shows.value === 'network') showNetwork()
      else if (shows.value === 'finding') await showFinding(text(route.query.finding))
    } catch (error) {
      wrong.value = failureText(error)
    }
  },
  { immediate: true },
)
async function showQuestion(): Promise<void> {
  const { from, to, over } = question.value!
  const transport = readOver(over)
  if (typeof transport === 'string') return void (wrong.value = transport)
  const asked = JSON.stringify(question.value)
  const found = await $fetch<Trace>(`${estate.base}/trace`, {
    method: 'POST',
    body: { from, to, ...transport, continue: true },
  })
  if (asked !== JSON.stringify(question.value) || shows.value !== 'question') return
  const branch = found.branches.find((one) => one.verdict === found.verdict) ?? found
  lines.value = traceLines(branch, home)
  const ends = estate.outline!.ends
  said.value = `${showEnd(from, ends)} > ${showEnd(to, ends)} ${over}`
}
function showNetwork(): void {
  const own = new Set(
    estate
      .outline!.subnets.filter((subnet) => subnet.network === network.value)
      .map(({ id }) => id),
  )
  const rows = (estate.exits ?? []).filter((row) => own.has(row.subnet))
  lines.value = rows.flatMap((row) => [
    ...exitLines(`subnets/${row.subnet}`, row.internet, 'internet'),
    ...exitLines(`subnets/${row.subnet}`, [...row.sites, ...row.services, ...row.otherNetworks]),
  ])
  concerned.value = [`networks/${network.value}`]
  said.value = `ways out of ${network.value}`
}
async function showFinding(fingerprint: string): Promise<void> {
  const found = await $fetch<{ findings: Finding[] }>(`${estate.base}/findings`, {
    query: { fingerprint, count: 1 },
  })
  const [finding] = found.findings
  if (text(route.query.finding) !== fingerprint) return
  if (!finding) return void (wrong.value = 'this revision has no such finding')
  concerned.value = finding.objects.map(home)
  said.value = finding.sentence
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
  choose({ open: next.join(',') || undefined })
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
            @change="
              choose({
                show:
                  ($event.target as HTMLSelectElement).value === 'nothing' ? 'nothing' : undefined,
                network: undefined,
                finding: undefined,
              })
            "
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
            @ways-out="choose({ network: $event, finding: undefined, show: undefined })"
            @select="selected = $event"
          />
        </div>
      </div>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
