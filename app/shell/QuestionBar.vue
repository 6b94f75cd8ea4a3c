<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import { readOver, resolveEnd, type QuestionText } from '~/questions/question-text'

/** The question bar: from, to, over. Enter answers; "/" comes here from anywhere. */
const estate = useEstate()
const questions = useQuestions()
const router = useRouter()

const from = ref<{ focus: () => void } | null>(null)
const to = ref<{ focus: () => void } | null>(null)
const over = ref<HTMLInputElement | null>(null)
const complaint = ref('')

const choices = computed(() => estate.outline?.ends ?? [])
const ready = computed(() => estate.outline !== null)

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

async function answer(): Promise<void> {
  complaint.value = ''
  const { text } = questions
  const ends = {
    from: resolveEnd(text.from, choices.value),
    to: resolveEnd(text.to, choices.value),
  }
  for (const part of ['from', 'to'] as const) {
    if (ends[part] !== null) continue
    complaint.value =
      text[part] === ''
        ? `say where it goes ${part}`
        : `nothing here is called "${text[part]}" alone; pick one from the list`
    return (part === 'from' ? from : to).value?.focus()
  }
  const transport = readOver(text.over)
  if (typeof transport === 'string') {
    complaint.value = transport
    return focusOver()
  }
  questions.remember({ ...text })
  over.value?.blur()
  await router.push({
    path: `/${estate.slug}/${estate.revision}/trace`,
    query: { from: ends.from, to: ends.to, over: text.over.trim() },
  })
}

onKeyStroke('/', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return
  event.preventDefault()
  from.value?.focus()
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
      placeholder="a host, subnet or address"
      :choices="choices"
      :history="questions.history"
      @done="to?.focus()"
      @whole="takeWhole"
      @answer="answer"
    />
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
    />
    <label class="flex w-44 items-baseline gap-2 max-lg:w-28">
      <span class="text-xs text-faint">over</span>
      <input
        ref="over"
        v-model="questions.text.over"
        class="h-7 w-full min-w-0 bg-transparent font-mono text-sm outline-none placeholder:text-faint"
        placeholder="tcp 443"
        autocomplete="off"
        spellcheck="false"
        :aria-invalid="complaint !== ''"
        aria-describedby="question-complaint"
        @keydown.ctrl.enter.prevent="answer"
      />
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
