<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import { withPasted } from '~/questions/asked'
import { overWords, USUAL_OVER } from '~/questions/over'
import { knownPortNames, loadPortNames } from '~/questions/port-names'
import type { QuestionText } from '~/questions/question-text'
import { useAnswerBar } from '~/questions/useAnswerBar'
import { useOverReader } from '~/questions/useOverReader'
import { useSearch, type FoundPlace } from '~/questions/useSearch'

/**
 * The question bar: from, to, over. Enter answers; "/" comes here from anywhere, and finds objects,
 * findings and views besides; "w" exchanges the ends.
 */
const estate = useEstate()
const questions = useQuestions()
const router = useRouter()
const route = useRoute()

const from = ref<{ focus: () => void } | null>(null)
const to = ref<{ focus: () => void } | null>(null)
const over = ref<HTMLInputElement | null>(null)
const complaint = computed(() => questions.refusal?.message ?? '')

const choices = computed(() => estate.outline?.ends ?? [])
const ready = computed(() => estate.outline !== null)
const isFromTyped = ref(false)
const places = useSearch(() => (isFromTyped.value ? questions.text.from : ''))
const names = knownPortNames()
const readOver = useOverReader()
/** What stands in the last field, in words. */
const isOverFocused = ref(false)
const overSays = computed(() => {
  const read = questions.text.over.trim() === '' ? null : readOver(questions.text.over)
  return read === null || typeof read === 'string' ? '' : overWords(read, names.value)
})

function focusOver(rest = ''): void {
  if (rest) questions.text = { ...questions.text, over: rest }
  over.value?.focus()
  if (rest) nextTick(() => over.value?.setSelectionRange(rest.length, rest.length))
  else over.value?.select()
}

function takeWhole(question: QuestionText): void {
  questions.text = { ...question, over: question.over || questions.text.over }
  nextTick(() => focusOver())
}

/** An address pasted with its port fills two fields. */
const takePasted = (): void => void (questions.text = withPasted(questions.text))

const answerBar = useAnswerBar()
async function answer(): Promise<void> {
  const refused = await answerBar()
  if (refused === null) over.value?.blur()
  else if (refused === 'over') focusOver()
  else (refused === 'from' ? from : to).value?.focus()
}

/** The same question the other way round; asked at once where an answer is on screen. */
function exchange(): void {
  const { from: begins, to: ends, over: what } = questions.text
  questions.text = { from: ends, to: begins, over: what }
  if (begins !== '' && ends !== '' && route.path.endsWith('/trace')) void answer()
}

async function go({ to: place }: FoundPlace): Promise<void> {
  questions.text = { ...questions.text, from: '' }
  questions.refusal = null
  if (typeof place !== 'function') return void (await router.push(place))
  const message = await place()
  if (message !== '') questions.refusal = { part: 'from', message, candidates: [] }
}

const isShortcut = (event: KeyboardEvent): boolean =>
  !event.ctrlKey && !event.metaKey && !event.altKey && !isTyping(event.target)
onKeyStroke('/', (event) => {
  if (!isShortcut(event)) return
  event.preventDefault()
  from.value?.focus()
})
onKeyStroke('w', (event) => {
  if (!isShortcut(event)) return
  event.preventDefault()
  exchange()
})
</script>

<template>
  <form
    role="search"
    aria-label="Question"
    class="relative flex h-[34px] min-w-0 flex-1 items-center gap-4 border-b-2 border-ink px-1"
    @submit.prevent="answer"
  >
    <EndField
      ref="from"
      v-model="questions.text.from"
      label="from"
      placeholder="a host, an address, anything by name"
      :choices="choices"
      :places="places"
      :history="questions.history"
      @done="to?.focus()"
      @whole="takeWhole"
      @answer="answer"
      @go="go"
      @typing="isFromTyped = $event"
      @pasted="takePasted"
    />
    <button
      type="button"
      class="-mx-2 cursor-pointer px-1 text-soft hover:text-ink"
      title="exchange the ends (w)"
      aria-label="Exchange the ends"
      @click="exchange"
    >
      ⇄
    </button>
    <EndField
      ref="to"
      v-model="questions.text.to"
      label="to"
      last
      placeholder="internet"
      :choices="choices"
      @done="focusOver"
      @whole="takeWhole"
      @answer="answer"
      @pasted="takePasted"
    />
    <label class="relative flex w-44 items-baseline gap-2 max-lg:w-28">
      <span class="text-xs text-faint">over</span>
      <input
        ref="over"
        v-model="questions.text.over"
        class="h-7 w-full min-w-0 bg-transparent font-mono text-sm outline-none placeholder:text-faint"
        :placeholder="USUAL_OVER"
        autocomplete="off"
        spellcheck="false"
        :aria-invalid="complaint !== ''"
        aria-describedby="question-complaint"
        @focus="((isOverFocused = true), loadPortNames())"
        @blur="isOverFocused = false"
        @keydown.ctrl.enter.prevent="answer"
      />
      <span
        v-if="isOverFocused && overSays && !complaint"
        class="absolute top-8 left-0 z-20 border border-rule bg-paper px-2 py-1 text-xs whitespace-nowrap text-soft"
        role="status"
        >{{ overSays }}</span
      >
    </label>
    <button
      type="submit"
      class="cursor-pointer text-xs whitespace-nowrap text-soft hover:text-ink disabled:text-faint"
      :disabled="!ready"
    >
      <kbd>Enter</kbd> <span class="max-lg:sr-only">answers</span>
    </button>
    <p
      id="question-complaint"
      role="alert"
      class="absolute top-9 right-0 z-20 bg-paper px-2 text-xs text-leak"
      :class="complaint ? 'border border-leak py-1' : ''"
    >
      {{ complaint }}
    </p>
  </form>
</template>
