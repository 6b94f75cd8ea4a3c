<script setup lang="ts">
import { explainCause, firstDifference, verdictText, type Branch } from '@salt-trail/core'
import { endMeant } from '~/questions/asked'
import { transportOf } from '~/questions/over'
import { joinQuestion, showEnd, splitQuestion, type QuestionText } from '~/questions/question-text'
import { useOverReader } from '~/questions/useOverReader'
import { useAnswer } from '~/api/useAnswer'
import { alignLanes, columnOf } from '~/views/trace/align'
import { decidingBranch } from '~/views/trace/deciding-branch'

/**
 * A second question beside the first: a host that works, another port, another revision. It is part
 * of the page's address, and says where the two first decide otherwise.
 */
const props = defineProps<{
  branch: Branch
  question: QuestionText
  /** By which the first question is answered, where both ends have both. */
  family?: 4 | 6 | undefined
}>()
/** Where the first question’s own strip shows the difference. */
const differs = defineModel<{ lane: 'there' | 'back'; column: number } | null>('differs', {
  required: true,
})
const estate = useEstate()
const readOver = useOverReader()

const text = ref('')
const { revisions } = useRevisions()
const written = textInAddress('beside', 'push')
const revision = textInAddress('revision', 'push')

/** A whole question, or only another source for the same one. */
function questionOf(words: string): QuestionText {
  const whole = splitQuestion(words)
  if (!whole) return { ...props.question, from: words.trim() }
  return {
    from: whole.from || props.question.from,
    to: whole.to || props.question.to,
    over: whole.over || props.question.over,
  }
}

/** The question as the server takes it, what is wrong with its words, or nothing. */
const wanted = computed(() => {
  if (written.value === '' || estate.outline === null) return null
  const { from, to, over } = questionOf(written.value)
  const { ends } = estate.outline
  const [a, b, transport] = [endMeant(from, ends), endMeant(to, ends), readOver(over)]
  if (transport === null || typeof transport === 'string') return transport
  if (typeof a !== 'string' || typeof b !== 'string')
    return `nothing here is called "${typeof a === 'string' ? to : from}" alone; pick one from the list`
  const { family } = props
  return {
    from: a,
    to: b,
    ...transportOf(transport),
    ...(family ? { family } : {}),
    continue: true,
  }
})
const { answer, failure: refused } = useAnswer<'trace'>(() => {
  const body = wanted.value
  const base = revision.value === '' ? estate.fixedBase : estate.baseOf(revision.value)
  return body === null || typeof body === 'string' || base === null
    ? null
    : { base, path: 'trace', body }
})
const failure = computed(() =>
  typeof wanted.value === 'string' ? wanted.value : (refused.value ?? ''),
)
watch(written, (now) => (text.value = now), { immediate: true })

const submit = (): void => void (written.value = text.value.trim())
function close(): void {
  written.value = ''
  revision.value = ''
}
const other = computed(() => (answer.value ? decidingBranch(answer.value) : null))
const difference = computed(() => (other.value ? firstDifference(props.branch, other.value) : null))
const lane = computed(() =>
  difference.value?.direction === 'return' ? ('back' as const) : ('there' as const),
)
const marked = computed(() => {
  const station = difference.value?.stations[1]
  if (!other.value || station == null) return null
  return { lane: lane.value, column: columnOf(alignLanes(other.value), lane.value, station) }
})
const NOWHERE = { lane: 'there', column: -1 } as const
const selected = ref<{ lane: 'there' | 'back'; column: number }>(NOWHERE)
watch([marked, difference], () => {
  selected.value = NOWHERE
  const station = difference.value?.stations[0]
  differs.value =
    station == null
      ? null
      : { lane: lane.value, column: columnOf(alignLanes(props.branch), lane.value, station) }
})
onUnmounted(() => (differs.value = null))
const shown = computed(() => {
  const { from, to, over } = questionOf(written.value)
  const ends = estate.outline?.ends ?? []
  return joinQuestion({ from: showEnd(from, ends), to: showEnd(to, ends), over })
})
const stop = computed(() =>
  other.value
    ? (alignLanes(other.value)[selected.value.column]?.[selected.value.lane] ?? null)
    : null,
)
</script>

<template>
  <section aria-label="Beside it" class="shrink-0">
    <form class="flex flex-wrap items-baseline gap-x-3 gap-y-1" @submit.prevent="submit">
      <h2 class="font-semibold">Beside it</h2>
      <div class="w-72 border-b border-rule">
        <EndField
          v-model="text"
          label="Another host, or a whole question"
          says=""
          placeholder="another host, or a whole question"
          :choices="estate.outline?.ends ?? []"
          @done="submit"
          @answer="submit"
          @whole="((text = joinQuestion($event)), submit())"
        />
      </div>
      <label v-if="revisions.length > 1" class="text-xs text-soft"
        >in revision
        <select
          class="mono h-7 bg-paper text-ink"
          :value="revision"
          @change="revision = ($event.target as HTMLSelectElement).value"
        >
          <option value="">this one</option>
          <option v-for="one in revisions" :key="one.number" :value="String(one.number)">
            {{ one.number }}
          </option>
        </select>
      </label>
      <button type="submit" class="action">Put beside</button>
      <button v-if="written" type="button" class="action" @click="close">Remove</button>
      <span v-if="!written" class="text-xs text-soft"
        >a host that works, another port, another revision: the first difference is marked</span
      >
    </form>
    <p v-if="failure" role="alert" class="mt-2 text-soft">{{ failure }}</p>
    <div v-else-if="other" class="mt-2 space-y-2">
      <p role="status">
        <ProblemMark v-if="other.cause" mark="hole" :size="13" label="fails" />
        <span class="mono">{{ shown }}</span>: {{ verdictText(other.verdict).toLowerCase()
        }}<span v-if="other.cause" class="text-soft">. {{ explainCause(other.cause) }}</span>
      </p>
      <dl
        v-if="difference"
        class="grid grid-cols-[110px_minmax(0,1fr)] gap-x-3 border-l-2 border-focus pl-3"
      >
        <dt class="col-span-2 font-semibold">First difference, on the way {{ lane }}</dt>
        <dt class="text-xs text-soft">the first question</dt>
        <dd>{{ difference.says[0] }}</dd>
        <dt class="text-xs text-soft">the one beside it</dt>
        <dd>{{ difference.says[1] }}</dd>
      </dl>
      <p v-else class="text-soft">Both are decided alike at every station.</p>
      <TraceStrip
        v-model:selected="selected"
        :branch="other"
        over=""
        :differs="marked"
        :keys="false"
      />
      <StopEvidence v-if="stop" :stop="stop" class="pb-2" />
    </div>
  </section>
</template>
