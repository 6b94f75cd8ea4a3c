<script setup lang="ts">
import { SEVERITIES } from '@salt-trail/core'
import { onKeyStroke, refDebounced } from '@vueuse/core'
import type { ListedFinding } from '~/api/answers'
import { useAnswer } from '~/api/useAnswer'
import type { TableText } from '~/tables/table-text'
import { fetchFindings } from '~/views/findings/fetch'
import { groupOf, GROUPINGS, groupTitle } from '~/views/findings/finding-words'
import { useAcceptance } from '~/views/findings/useAcceptance'
import { useFindings } from '~/views/findings/useFindings'
import { useRootCauses } from '~/views/findings/useRootCauses'

/**
 * Everything that is wrong: what decides, the gravest first, or findings by severity, family or
 * network; one of them open beside the list.
 */
const estate = useEstate()
const ask = useAsk()
useHead({ title: computed(() => `Findings, ${estate.outline?.name ?? 'Salt Trail'}`) })

// A choice leaves a step to go back to; moving from finding to finding, and typing, do not.
const by = choiceInAddress('by', 'push', GROUPINGS, 'root-cause')
const family = choiceInAddress('family', 'push', ['', 'leak', 'hole', 'weak'], '')
const severity = choiceInAddress('severity', 'push', ['', ...SEVERITIES], '')
const about = choiceInAddress('about', 'push', ['', 'left-behind'], '')
const network = textInAddress('network', 'push')
const cause = textInAddress('cause', 'replace')
const fingerprint = textInAddress('finding', 'replace')
const wanted = textInAddress('find', 'replace')
const text = ref(wanted.value)
// Asked when typing pauses.
const find = refDebounced(text, 200)
watch(find, (now) => (wanted.value = now))
// Going back restores the text, too.
watch(wanted, (now) => (text.value = now))

const chosen = computed(() => ({
  family: family.value || null,
  severity: severity.value || null,
  network: network.value || null,
  about: about.value || null,
  text: find.value,
}))
const isByRoot = computed(() => by.value === 'root-cause')
const causes = useRootCauses(() => (isByRoot.value ? chosen.value : null))
const {
  found,
  failure: lost,
  more,
} = useFindings(() => (by.value === 'root-cause' ? null : { ...chosen.value, by: by.value }))
const failure = computed(() => lost.value ?? causes.failure.value)
const { accept, refused } = useAcceptance()

const listedCauses = computed(() => causes.found.value?.rootCauses ?? [])
/** A finding that a link names without its root cause. */
const { answer: linked } = useAnswer<'findings'>(() =>
  isByRoot.value && fingerprint.value && !cause.value && estate.fixedBase && estate.isDone
    ? { base: estate.fixedBase, path: 'findings', query: { fingerprint: fingerprint.value } }
    : null,
)
const openCause = computed(() => {
  const named = cause.value || linked.value?.findings[0]?.rootCause
  return (
    listedCauses.value.find((one) => one.fingerprint === named) ?? listedCauses.value[0] ?? null
  )
})
function openRootCause(named: string): void {
  cause.value = named
  fingerprint.value = ''
}

const listed = computed(() => found.value?.findings ?? [])
/** Each group with those of it that were fetched. */
const groups = computed(() => {
  const grouping = by.value
  if (grouping === 'root-cause') return []
  const byKey = new Map<string | null, ListedFinding[]>()
  for (const one of listed.value) {
    const key = groupOf(one, grouping)
    const list = byKey.get(key)
    if (list) list.push(one)
    else byKey.set(key, [one])
  }
  return (found.value?.groups ?? []).flatMap(({ key, total }) =>
    byKey.has(key) ? [{ key, total, ...groupTitle(key, grouping), findings: byKey.get(key)! }] : [],
  )
})
const open = computed(
  () =>
    listed.value.find((one) => one.fingerprint === fingerprint.value) ?? listed.value[0] ?? null,
)
const selectedSubnet = useSelectedSubnet()
watch(
  () => (fingerprint.value ? (linked.value?.findings[0] ?? open.value)?.anchor : undefined),
  (anchor) => {
    if (anchor?.startsWith('subnets/')) selectedSubnet.value = anchor.slice('subnets/'.length)
  },
)

/** All that are chosen, not only those fetched so far. */
async function table(): Promise<TableText> {
  const grouping = by.value === 'root-cause' ? 'severity' : by.value
  const all = await fetchFindings(estate.base, { ...chosen.value, by: grouping })
  return {
    columns: ['severity', 'code', 'network', 'at', 'finding', 'exactly', 'decided by', 'accepted'],
    rows: all.map((one) => [
      one.severity,
      one.code,
      one.network ?? '',
      one.anchor,
      one.sentence,
      one.evidence.ranges.join(' '),
      [one.root.kind, one.root.object, one.root.part].join(' '),
      one.accepted?.reason ?? '',
    ]),
  }
}

/** Opens the next of a list, and brings it into sight. */
function stepIn<T extends { fingerprint: string }>(
  list: readonly T[],
  { from, by, kind }: { from: T | null; by: number; kind: string },
): string | null {
  const at = from ? list.indexOf(from) : -1
  const next = list[Math.min(Math.max(at + by, 0), list.length - 1)]
  if (!next) return null
  void nextTick(() =>
    document.getElementById(`${kind}-${next.fingerprint}`)?.scrollIntoView({ block: 'nearest' }),
  )
  return next.fingerprint
}
onKeyStroke(['ArrowDown', 'ArrowUp'], (event) => {
  if (isTyping(event.target)) return
  event.preventDefault()
  const by = event.key === 'ArrowDown' ? 1 : -1
  if (isByRoot.value) {
    const next = stepIn(listedCauses.value, { from: openCause.value, by, kind: 'cause' })
    if (next !== null) openRootCause(next)
  } else
    fingerprint.value =
      stepIn(listed.value, { from: open.value, by, kind: 'finding' }) ?? fingerprint.value
})
onKeyStroke('Enter', (event) => {
  if (isTyping(event.target) || event.target instanceof HTMLButtonElement) return
  const shown = document.querySelector<HTMLButtonElement>('[data-shows-trace]')
  shown?.click()
})
const KEYS = [
  { keys: '↑ ↓', does: 'next' },
  { keys: 'Enter', does: 'trace' },
]
</script>

<template>
  <AppShell :keys="KEYS">
    <div v-if="estate.outline && estate.isDone" class="flex h-full flex-col">
      <h1 class="sr-only">Findings of {{ estate.outline.name }}</h1>
      <FindingsToolbar
        v-model:by="by"
        v-model:family="family"
        v-model:severity="severity"
        v-model:about="about"
        v-model:network="network"
        v-model:text="text"
        :table="table"
      />
      <div
        v-if="listed.length > 0 || openCause"
        class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_max(440px,36%)]"
      >
        <div
          v-if="openCause"
          class="min-h-0 overflow-y-auto"
          tabindex="0"
          aria-label="List of root causes"
        >
          <h2
            class="sticky top-0 flex items-baseline gap-2 border-b border-rule bg-ground px-4 pt-3 pb-1"
          >
            <span class="text-base font-semibold">Root causes</span>
            <span class="text-xs text-soft">
              {{ causes.found.value!.total.toLocaleString('en-GB') }}, which decide
              {{ causes.found.value!.findings.toLocaleString('en-GB') }} findings; those on which
              the most hangs first
            </span>
          </h2>
          <RootCauseRows :causes="listedCauses" :open="openCause" @open="openRootCause" />
        </div>
        <div v-else class="min-h-0 overflow-y-auto" tabindex="0" aria-label="List of findings">
          <section v-for="group in groups" :key="group.key ?? ''">
            <h2
              class="sticky top-0 flex items-baseline gap-2 border-b border-rule bg-ground px-4 pt-3 pb-1"
            >
              <span class="text-base font-semibold">{{ group.title }}</span>
              <span class="text-xs text-soft">{{ group.total.toLocaleString('en-GB') }}</span>
              <span class="text-xs text-soft">{{ group.about }}</span>
            </h2>
            <FindingRows
              :findings="group.findings"
              :open="open"
              @open="(named) => (fingerprint = named)"
            />
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
          aria-label="What is open"
        >
          <RootCausePane
            v-if="openCause"
            :cause="openCause"
            :chosen="chosen"
            :fingerprint="fingerprint"
            :refused="refused"
            @open="(named) => (fingerprint = named)"
            @trace="ask"
            @accept="accept"
          />
          <FindingDetail v-else-if="open" :finding="open" @trace="ask">
            <AcceptFinding
              :accepted="open.accepted"
              :of="open.fingerprint"
              :root-cause="open.rootCause"
              :failure="refused"
              @accept="accept"
            />
          </FindingDetail>
        </div>
      </div>
      <p v-else-if="failure" class="max-w-2xl p-4 text-leak" role="alert">{{ failure }}</p>
      <p v-else-if="found || causes.found.value" class="p-4 text-soft">
        {{
          estate.analysis?.counts?.rootCauses === 0 && !estate.analysis.counts.accepted
            ? 'Nothing is wrong with this revision, as far as every check can see.'
            : 'No finding matches.'
        }}
      </p>
      <p v-else class="p-4 text-soft" role="status">Fetching the findings …</p>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
