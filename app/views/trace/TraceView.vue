<script setup lang="ts">
import { decidedAt, explainCause, verdictText, type Branch, type Check } from '@salt-trail/core'
import { showEnd } from '~/questions/question-text'
import { useAnswerBar } from '~/questions/useAnswerBar'
import { useAnswer } from '~/api/useAnswer'
import { withGhostedRest } from '~/views/trace/ghosted-rest'
import { alignLanes, columnOf } from '~/views/trace/align'
import { wayElement } from '~/objects/way-element'
import { headlineOf } from '~/views/trace/cases'
import { nameOf } from '~/views/trace/stop-words'
import { useCases } from '~/views/trace/useCases'

/** One question, answered: both directions, the first fault, the evidence of every decision. */
const estate = useEstate()
const questions = useQuestions()
const route = useRoute()
useHead({
  title: computed(
    () => `${questions.text.from || 'Trace'} to ${questions.text.to || '…'}, Salt Trail`,
  ),
})

const {
  query,
  isAsked,
  cases,
  chosen: chosenCase,
  choose: chooseCase,
  question,
  ...of
} = useCases()
const {
  answer,
  failure: notTraced,
  error: traceError,
  isLoading: isTracing,
} = useAnswer<'trace'>(
  () =>
    question.value && {
      base: question.value.base,
      path: 'trace',
      body: { ...question.value.body, continue: true },
    },
)
const waiting = computed(() => of.isLoading.value || isTracing.value)
/** What would make it work; null while that is looked for. */
const { answer: proposed, failure: proposedRefused } = useAnswer<'proposals'>(() =>
  question.value && answer.value && answer.value.verdict !== 'works'
    ? { ...question.value, path: 'proposals' }
    : null,
)
const failure = computed(() => of.failure.value || (notTraced.value ?? ''))
const error = computed(() => of.error.value ?? traceError.value)
/** Which end of the question the server does not know, and what it may have meant. */
const unknownEnd = computed(() => {
  const said = (
    error.value as { data?: { data?: { candidates?: string[]; part?: string } } } | null
  )?.data?.data
  return failure.value !== '' && (said?.part === 'from' || said?.part === 'to')
    ? { part: said.part, candidates: said.candidates ?? [] }
    : null
})
const candidates = computed(() => unknownEnd.value?.candidates ?? [])
const part = computed(() => unknownEnd.value?.part ?? 'from')
const answerBar = useAnswerBar()
/** Takes what was meant; the rest of the question stands in the bar already. */
function mean(end: string): void {
  const { part } = questions.refusal!
  questions.text = { ...questions.text, [part]: showEnd(end, estate.outline?.ends ?? []) }
  void answerBar()
}
onUnmounted(() => (questions.refusal = null))
// The question of the address stands in the bar.
watch(
  [() => JSON.stringify(query.value), () => estate.outline],
  () => {
    const { from, to, over } = query.value
    const ends = estate.outline?.ends
    questions.refusal = null
    if (ends && isAsked.value)
      questions.text = { from: showEnd(from, ends), to: showEnd(to, ends), over }
  },
  { immediate: true },
)
/** How long the answer took; nothing for one that was known already. */
const tookMs = ref<number | null>(null)
let began = 0
watch(waiting, (now) => {
  if (now) began = performance.now()
  tookMs.value = now ? null : performance.now() - began
})

// Which station of which branch is looked at stands in the address, too.
const branchNumber = textInAddress('branch', 'replace')
const stationAt = textInAddress('at', 'replace')
const branches = computed<readonly Branch[]>(() =>
  answer.value ? (answer.value.branches.length > 0 ? answer.value.branches : [answer.value]) : [],
)
/** The branch that was chosen; at first the worst. */
const chosen = computed({
  get: () => {
    const named = Number(branchNumber.value)
    if (branches.value[named - 1]) return named - 1
    return Math.max(
      0,
      branches.value.findIndex((one) => one.verdict === answer.value?.verdict),
    )
  },
  set: (index: number) => {
    branchNumber.value = String(index + 1)
    stationAt.value = ''
  },
})
/** What lies beyond its fault follows the first proposal, once that is found. */
const isOneOfMany = computed(() => (cases.value?.cases.length ?? 0) > 1)
const branch = computed(() => {
  const own = branches.value[chosen.value]
  return own ? withGhostedRest(own, proposed.value?.proposals[0]?.shown ?? null) : null
})
const columns = computed(() => (branch.value ? alignLanes(branch.value) : []))

interface StopAt {
  readonly lane: 'there' | 'back'
  readonly column: number
}
/** Looked at first: where it fails, else the first look-up. */
const firstLook = computed((): StopAt => {
  const now = branch.value
  const decided = now ? decidedAt(now) : null
  const lane = decided?.direction === 'return' ? 'back' : 'there'
  const holds = (index: number): boolean => {
    const stop = columns.value[index]![lane]
    if (!stop || !now) return false
    return decided
      ? decided.station >= stop.first && decided.station < stop.first + stop.stations.length
      : stop.stations.some((s) => s.kind === 'lookup')
  }
  return {
    lane,
    column: Math.max(
      0,
      columns.value.findIndex((_, index) => holds(index)),
    ),
  }
})
const selected = computed({
  get: (): StopAt => {
    const [lane, number] = stationAt.value.split(' ')
    const column = Number(number) - 1
    return (lane === 'there' || lane === 'back') && columns.value[column]?.[lane]
      ? { lane, column }
      : firstLook.value
  },
  set: ({ lane, column }: StopAt) => (stationAt.value = `${lane} ${column + 1}`),
})
/** Leads to the stop at which a station stands. */
function show({ direction, station }: NonNullable<Check['shown']>): void {
  const lane = direction === 'return' ? 'back' : 'there'
  const column = columnOf(columns.value, lane, station)
  if (column >= 0) selected.value = { lane, column }
}
/** Where a question put beside this one first differs from it. */
const differs = ref<{ lane: 'there' | 'back'; column: number } | null>(null)
const stop = computed(() => columns.value[selected.value.column]?.[selected.value.lane] ?? null)

const sentence = computed(() => {
  const now = branch.value
  if (!now) return ''
  if (now.cause) return `${explainCause(now.cause)} ${decidedAt(now)!.says}`.trim()
  const seen =
    now.seenAs.length > 0
      ? `seen as ${now.seenAs.map((a) => (a === 'unpredictable' ? 'an address nobody can foresee' : a)).join(' or ')}`
      : ''
  const by = now.leavesBy ? `leaves by ${wayElement(now.leavesBy)}` : ''
  return [by, seen].filter(Boolean).join(', ')
})
/** Whether what would mend the fault is known: until then, what lies beyond it is not settled. */
const isTried = computed(() => Boolean(proposed.value) || Boolean(proposedRefused.value))
const further = computed(() => (isTried.value ? (branch.value?.faults.slice(1) ?? []) : []))
const said = computed(() => {
  if (waiting.value) return 'asking …'
  if (!answer.value) return undefined
  const n = branch.value?.faults.length ?? 0
  const faults =
    n === 0
      ? 'no fault on this path'
      : !isTried.value
        ? 'trying what would mend it'
        : n === 1
          ? 'one fault on this path, and none found behind it'
          : `${n} faults on this path`
  if (tookMs.value === null) return faults
  return `answered in ${tookMs.value < 10 ? tookMs.value.toFixed(1) : Math.round(tookMs.value)} ms, ${faults}`
})
const KEYS = [
  { keys: '← →', does: 'station' },
  { keys: '↑ ↓', does: 'there, back' },
]
</script>

<template>
  <AppShell :said="said" :keys="KEYS">
    <LoadState v-if="!estate.outline" />
    <div v-else-if="questions.refusal" class="p-10" role="alert">
      <h1 class="mb-1 text-base font-semibold">This cannot be asked</h1>
      <p class="mb-3 text-soft">{{ questions.refusal.message }}</p>
      <ul v-if="questions.refusal.candidates.length > 0">
        <li v-for="one in questions.refusal.candidates" :key="one.end" class="py-0.5">
          <button type="button" class="mono cursor-pointer underline" @click="mean(one.end)">
            {{ one.id }}
          </button>
          <span class="ml-3 text-xs text-soft">{{ one.about }}</span>
        </li>
      </ul>
    </div>
    <div
      v-else-if="answer && branch"
      class="page-lying flex h-full flex-col gap-3 overflow-auto px-4 pt-3.5 pb-4"
    >
      <p class="mb-2 hidden print:block">
        <span class="font-semibold">{{ estate.outline.name }}</span>, revision
        {{ estate.outline.revision.number }} of {{ when(estate.outline.revision.createdAt) }}:
        <span class="mono"
          >{{ questions.text.from }} &gt; {{ questions.text.to }} {{ questions.text.over }}</span
        >
      </p>
      <div class="flex flex-wrap items-baseline gap-x-3.5 gap-y-1" role="status">
        <h1 class="flex items-center gap-2.5 text-lg font-semibold tracking-tight">
          <ProblemMark v-if="branch.cause" mark="hole" :size="17" label="fails" />{{
            cases && isOneOfMany ? headlineOf(cases) : verdictText(branch.verdict)
          }}
        </h1>
        <p v-if="!isOneOfMany" class="text-soft">{{ sentence }}</p>
        <p v-else-if="branch.cause && decidedAt(branch)!.says" class="text-soft">
          {{ decidedAt(branch)!.says }}
        </p>
        <span v-if="branch.cause" class="mono text-faint"
          >{{ branch.cause.code }} {{ branch.cause.object }}</span
        >
        <TraceActions :answer="answer" class="ml-auto" />
      </div>
      <TraceCases
        v-if="cases && isOneOfMany"
        :found="cases"
        :chosen="chosenCase"
        @choose="chooseCase"
      />
      <nav
        v-if="branches.length > 1"
        aria-label="Branches of equal cost"
        class="flex gap-4 text-xs"
      >
        <button
          v-for="(one, index) in branches"
          :key="index"
          type="button"
          class="cursor-pointer"
          :class="index === chosen ? 'border-b-2 border-ink font-semibold' : 'text-soft'"
          :aria-pressed="index === chosen"
          @click="chosen = index"
        >
          branch {{ index + 1 }}: {{ verdictText(one.verdict).toLowerCase() }}
        </button>
      </nav>
      <TraceStrip
        v-model:selected="selected"
        :branch="branch"
        :over="of.overSays.value"
        :differs="differs"
        class="shrink-0"
      />
      <TraceBeside
        v-model:differs="differs"
        :branch="branch"
        :question="questions.text"
        :family="isOneOfMany ? chosenCase?.family : undefined"
      />
      <div class="grid grid-cols-[minmax(0,1fr)_max(300px,22%)] gap-[22px]">
        <div class="space-y-5">
          <StopEvidence v-if="stop" :stop="stop" />
          <ProposalList
            v-if="answer.cause"
            :proposals="proposed?.proposals ?? null"
            :failure="proposedRefused ?? ''"
            :is-cut="proposed?.isCut"
          />
        </div>
        <div>
          <TraceChecklist :branch="branch" @show="show" />
          <section v-if="further.length > 0" class="mt-3">
            <h2 class="mb-1.5 font-semibold">What fails next, once that is mended</h2>
            <ol>
              <li v-for="(fault, index) in further" :key="index" class="border-b border-hair py-1">
                {{ explainCause(fault) }} <span class="mono text-faint">{{ fault.code }}</span>
              </li>
            </ol>
          </section>
          <section v-if="branch.assumed.length > 0" class="mt-3">
            <h2 class="mb-1.5 font-semibold">Assumed beyond the first fault</h2>
            <ul>
              <li
                v-for="(assumption, index) in branch.assumed"
                :key="index"
                class="border-b border-hair py-1 text-soft"
              >
                {{ assumption.what.replace(/^\w+\//, '') }}
              </li>
            </ul>
          </section>
          <section v-if="answer.name" class="mt-3">
            <h2 class="mb-1.5 font-semibold">The name {{ answer.name.asked }}</h2>
            <p class="border-b border-hair py-1">
              {{
                answer.name.answeredBy === null
                  ? 'nobody answers for it'
                  : `${nameOf(answer.name.answeredBy)} answers`
              }}
              <span class="mono">{{ answer.name.addresses.join(', ') }}</span>
            </p>
            <p
              v-for="server in answer.name.nameServers"
              :key="server.address"
              class="border-b border-hair py-1"
            >
              name server <span class="mono">{{ server.address }}</span>
              {{ server.reachable ? 'can be reached on port 53' : 'cannot be reached on port 53' }}
            </p>
          </section>
          <section v-if="branch.way.length > 0" class="mt-3">
            <h2 class="mb-1.5 font-semibold">The way</h2>
            <ol>
              <li
                v-for="(element, index) in branch.way"
                :key="index"
                class="border-b border-hair py-1"
              >
                <span class="mono">{{ element }}</span>
              </li>
            </ol>
          </section>
        </div>
      </div>
    </div>
    <div v-else-if="failure" class="p-10" role="alert">
      <h1 class="mb-1 text-base font-semibold">This cannot be asked</h1>
      <p class="mb-3 text-soft">{{ failure }}</p>
      <ul v-if="candidates.length > 0">
        <li v-for="candidate in candidates" :key="candidate" class="mono py-0.5">
          <NuxtLink :to="{ query: { ...route.query, [part]: candidate } }" class="underline">{{
            candidate
          }}</NuxtLink>
        </li>
      </ul>
    </div>
    <div v-else-if="!isAsked" class="max-w-xl p-10">
      <h1 class="mb-1 text-base font-semibold">Ask how a packet travels</h1>
      <p class="text-soft">
        Write in the bar above from where to where, and over what:
        <span class="mono">booking-1 &gt; internet tcp 443</span>. <kbd>/</kbd> goes there,
        <kbd>Enter</kbd> answers. Or press <kbd>Enter</kbd> on a cell of Exits.
      </p>
    </div>
    <p v-else class="p-10 text-soft" role="status">Asking …</p>
  </AppShell>
</template>
