<script setup lang="ts">
import { familyOfCode, SEVERITIES, type FindingFamily, type Severity } from '@salt-trail/core'
import { onKeyStroke, refDebounced } from '@vueuse/core'
import { fetchFindings } from '~/views/findings/fetch'
import {
  FAMILIES,
  groupOf,
  GROUPINGS,
  groupTitle,
  type FindingsGrouping,
} from '~/views/findings/finding-words'
import type { ListedFinding } from '~/api/answers'
import { useFindings, type FindingsChosen } from '~/views/findings/useFindings'
import type { TableText } from '~/tables/table-text'

/**
 * Everything that is wrong, the most severe first, or by family or network; one of them open beside
 * the list.
 */
const estate = useEstate()
const ask = useAsk()
useHead({ title: computed(() => `Findings, ${estate.outline?.name ?? 'Salt Trail'}`) })

// A choice leaves a step to go back to; moving from finding to finding, and typing, do not.
const by = choiceInAddress('by', 'push', GROUPINGS, 'severity')
const family = choiceInAddress('family', 'push', ['', 'leak', 'hole', 'weak'], '')
const severity = choiceInAddress('severity', 'push', ['', ...SEVERITIES], '')
const network = textInAddress('network', 'push')
const fingerprint = textInAddress('finding', 'replace')
const wanted = textInAddress('find', 'replace')
const text = ref(wanted.value)
// Asked when typing pauses.
const find = refDebounced(text, 200)
watch(find, (now) => (wanted.value = now))
// Going back restores the text, too.
watch(wanted, (now) => (text.value = now))

const chosen = (): FindingsChosen => ({
  by: by.value,
  family: family.value || null,
  severity: severity.value || null,
  network: network.value || null,
  text: find.value,
})
const { found, failure, more, accept, refused } = useFindings(chosen)
const families = computed(() => estate.analysis?.counts?.families)
const total = computed(() =>
  families.value ? families.value.leak + families.value.hole + families.value.weak : 0,
)
const listed = computed(() => found.value?.findings ?? [])
/** Each group with those of it that were fetched. */
const groups = computed(() => {
  const byKey = new Map<string | null, ListedFinding[]>()
  for (const one of listed.value) {
    const key = groupOf(one, by.value)
    const list = byKey.get(key)
    if (list) list.push(one)
    else byKey.set(key, [one])
  }
  return (found.value?.groups ?? []).flatMap(({ key, total }) =>
    byKey.has(key) ? [{ key, total, ...groupTitle(key, by.value), findings: byKey.get(key)! }] : [],
  )
})
const networks = computed(() => [
  ...new Set((estate.outline?.subnets ?? []).map((subnet) => subnet.network)),
])
const open = computed(
  () =>
    listed.value.find((one) => one.fingerprint === fingerprint.value) ?? listed.value[0] ?? null,
)
const selectedSubnet = useSelectedSubnet()
watch(
  () => (fingerprint.value ? open.value?.anchor : undefined),
  (anchor) => {
    if (anchor?.startsWith('subnets/')) selectedSubnet.value = anchor.slice('subnets/'.length)
  },
)
const countOf = (of: FindingFamily): string => (families.value?.[of] ?? 0).toLocaleString('en-GB')

/** All that are chosen, not only those fetched so far. */
async function table(): Promise<TableText> {
  const all = await fetchFindings(estate.base, chosen())
  return {
    columns: ['severity', 'code', 'network', 'at', 'finding', 'exactly', 'accepted'],
    rows: all.map((one) => [
      one.severity,
      one.code,
      one.network ?? '',
      one.anchor,
      one.sentence,
      one.evidence.ranges.join(' '),
      one.accepted?.reason ?? '',
    ]),
  }
}
function step(by: number): void {
  const at = open.value ? listed.value.indexOf(open.value) : -1
  const next = listed.value[Math.min(Math.max(at + by, 0), listed.value.length - 1)]
  if (!next) return
  fingerprint.value = next.fingerprint
  void nextTick(() =>
    document.getElementById(`finding-${next.fingerprint}`)?.scrollIntoView({ block: 'nearest' }),
  )
}
onKeyStroke(['ArrowDown', 'ArrowUp'], (event) => {
  if (isTyping(event.target)) return
  event.preventDefault()
  step(event.key === 'ArrowDown' ? 1 : -1)
})
onKeyStroke('Enter', (event) => {
  if (
    !isTyping(event.target) &&
    open.value?.evidence.question &&
    !(event.target instanceof HTMLButtonElement)
  )
    ask(open.value.evidence.question)
})
const KEYS = [
  { keys: '↑ ↓', does: 'finding' },
  { keys: 'Enter', does: 'trace' },
]
</script>

<template>
  <AppShell :keys="KEYS">
    <div v-if="estate.outline && estate.isDone" class="flex h-full flex-col">
      <h1 class="sr-only">Findings of {{ estate.outline.name }}</h1>
      <div class="toolbar border-b border-rule">
        <button
          type="button"
          class="cursor-pointer"
          :class="family === '' ? 'font-semibold' : 'text-soft'"
          :aria-pressed="family === ''"
          @click="family = ''"
        >
          all {{ total.toLocaleString('en-GB') }}
        </button>
        <button
          v-for="one in FAMILIES"
          :key="one.family"
          type="button"
          class="flex cursor-pointer items-center gap-1.5"
          :class="family === one.family ? 'font-semibold' : 'text-soft'"
          :aria-pressed="family === one.family"
          :title="one.about"
          @click="family = one.family"
        >
          <ProblemMark :mark="one.family" /> {{ one.title.toLowerCase() }} {{ countOf(one.family) }}
        </button>
        <span v-if="estate.analysis?.counts?.accepted" class="text-soft"
          >and {{ estate.analysis.counts.accepted }} accepted</span
        >
        <label class="ml-3 flex items-center gap-1.5 text-soft"
          >severity at least
          <select
            class="border-b border-rule bg-paper py-0.5 text-ink"
            :value="severity || 'note'"
            @change="severity = ($event.target as HTMLSelectElement).value as Severity | ''"
          >
            <option v-for="one in SEVERITIES" :key="one" :value="one">{{ one }}</option>
          </select>
        </label>
        <label class="flex items-center gap-1.5 text-soft"
          >by
          <select
            class="border-b border-rule bg-paper py-0.5 text-ink"
            :value="by"
            @change="by = ($event.target as HTMLSelectElement).value as FindingsGrouping"
          >
            <option v-for="one in GROUPINGS" :key="one" :value="one">{{ one }}</option>
          </select>
        </label>
        <label v-if="by === 'network' || network" class="flex items-center gap-1.5 text-soft"
          >in
          <select
            class="max-w-40 border-b border-rule bg-paper py-0.5 text-ink"
            :value="network"
            @change="network = ($event.target as HTMLSelectElement).value"
          >
            <option value="">every network</option>
            <option v-for="one in networks" :key="one" :value="one">{{ one }}</option>
          </select>
        </label>
        <NuxtLink
          :to="`/${estate.slug}/${estate.revision}/report`"
          class="ml-auto border-b border-rule text-soft hover:text-ink"
          >report</NuxtLink
        >
        <CopyTable name="findings" :table="table" />
        <label class="flex items-center gap-1.5 text-soft"
          >with
          <input
            v-model="text"
            type="search"
            class="w-40 border-b border-rule bg-paper px-1 py-0.5 text-ink"
            placeholder="code, object or words"
          />
        </label>
      </div>
      <div v-if="listed.length > 0" class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_440px]">
        <div class="min-h-0 overflow-y-auto" tabindex="0" aria-label="List of findings">
          <section v-for="group in groups" :key="group.key ?? ''">
            <h2
              class="sticky top-0 flex items-baseline gap-2 border-b border-rule bg-ground px-4 pt-3 pb-1"
            >
              <span class="text-base font-semibold">{{ group.title }}</span>
              <span class="text-xs text-soft">{{ group.total.toLocaleString('en-GB') }}</span>
              <span class="text-xs text-soft">{{ group.about }}</span>
            </h2>
            <button
              v-for="one in group.findings"
              :id="`finding-${one.fingerprint}`"
              :key="one.fingerprint"
              type="button"
              class="grid w-full cursor-pointer grid-cols-[22px_64px_minmax(0,1fr)] items-start border-b border-hair px-4 py-1.5 text-left"
              :class="one === open ? 'bg-wash shadow-[inset_3px_0_var(--focus)]' : ''"
              :aria-current="one === open"
              @click="fingerprint = one.fingerprint"
            >
              <ProblemMark :mark="familyOfCode(one.code)" class="mt-0.5" />
              <span class="text-xs leading-5 text-soft">{{
                one.accepted ? 'accepted' : one.severity
              }}</span>
              <span :class="one.accepted ? 'text-soft' : ''"
                >{{ one.sentence }}
                <span class="mono whitespace-nowrap text-soft">{{ one.code }}</span></span
              >
            </button>
          </section>
          <button
            v-if="found && listed.length < found.total"
            type="button"
            class="w-full cursor-pointer border-b border-hair px-4 py-2 text-left text-soft hover:text-ink"
            @click="more()"
          >
            {{ (found.total - listed.length).toLocaleString('en-GB') }} more: show the next
          </button>
        </div>
        <div
          class="min-h-0 overflow-y-auto border-l border-rule bg-paper"
          tabindex="0"
          aria-label="The finding"
        >
          <FindingDetail v-if="open" :finding="open" @trace="ask">
            <AcceptFinding
              :finding="open"
              :failure="refused"
              @accept="accept(open.fingerprint, $event)"
              @take-back="accept(open.fingerprint, null)"
            />
          </FindingDetail>
        </div>
      </div>
      <p v-else-if="failure" class="max-w-2xl p-4 text-leak" role="alert">{{ failure }}</p>
      <p v-else-if="found" class="p-4 text-soft">
        {{
          total === 0
            ? 'Nothing is wrong with this revision, as far as every check can see.'
            : 'No finding matches.'
        }}
      </p>
      <p v-else class="p-4 text-soft" role="status">Fetching the findings …</p>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
