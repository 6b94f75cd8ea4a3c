<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import {
  choicesNamed,
  complete,
  joinQuestion,
  splitQuestion,
  type EndChoice,
  type QuestionText,
} from '~/questions/question-text'
import type { FoundPlace } from '~/questions/useSearch'

/**
 * One end of the question, typed with completion. A whole question typed or pasted here is taken
 * apart.
 */
const props = defineProps<{
  /** What it is called; said before the field, unless `says` is something else. */
  label: string
  says?: string
  choices: readonly EndChoice[]
  history?: readonly QuestionText[]
  /** Where the text leads besides: objects, findings, views. */
  places?: readonly FoundPlace[]
  placeholder: string
  last?: boolean
}>()
const emit = defineEmits<{
  done: [rest?: string]
  whole: [question: QuestionText]
  answer: []
  go: [place: FoundPlace]
  pasted: []
  typing: [is: boolean]
}>()
const text = defineModel<string>({ required: true })

interface Option {
  readonly key: string
  readonly id: string
  readonly about: string
  readonly question?: QuestionText
  readonly place?: FoundPlace
}

const input = ref<InstanceType<typeof ComboboxInput> | null>(null)
const field = computed(() => (input.value?.$el as HTMLInputElement | undefined) ?? null)

const options = computed<Option[]>(() => {
  const ends = complete(text.value, props.choices).map(({ end, id, about }) => ({
    key: end,
    id: ambiguous(id) ? end : id,
    about,
  }))
  const exact = ends.some((option) => option.id === text.value || option.key === text.value)
  const written =
    text.value === '' || exact
      ? []
      : [
          {
            key: text.value,
            id: text.value,
            about: ends.length === 0 ? 'as written' : 'as written: an address or a name',
          },
        ]
  const places = (text.value === '' ? [] : (props.places ?? [])).map((place) => ({
    key: `to ${place.key}`,
    id: place.name,
    about: place.about,
    place,
  }))
  const asked =
    text.value === ''
      ? (props.history ?? []).slice(0, 8).map((question) => ({
          key: `asked ${joinQuestion(question)}`,
          id: joinQuestion(question),
          about: 'asked before',
          question,
        }))
      : []
  // An address is taken as it stands; a word most likely means the first thing it completes to.
  const literal = /^[0-9a-f]*[.:][0-9a-f.:]*$/i.test(text.value)
  // Where nothing begins so, Enter goes to what was found rather than taking the text as it stands.
  return literal
    ? [...written, ...ends, ...places]
    : [
        ...asked,
        ...ends,
        ...(ends.length === 0 ? [] : written),
        ...places,
        ...(ends.length === 0 ? written : []),
      ]
})

const ambiguous = (id: string): boolean => choicesNamed(id, props.choices).length > 1

function typed(event: Event): void {
  const value = (event.target as HTMLInputElement).value
  const whole = splitQuestion(value)
  if (whole && whole.to !== '') return emit('whole', whole)
  if (whole) {
    // A lone ">" ends this field; the likeliest completion is taken.
    text.value = complete(whole.from, props.choices, 1)[0]?.id ?? whole.from
    return emit('done')
  }
  // Ids and addresses hold no spaces: behind the last end a space begins what it goes over.
  const [word, rest] = [value.trimStart().split(/\s/, 1)[0]!, value.trimStart().replace(/^\S+/, '')]
  if (props.last && word !== '' && rest !== '') {
    text.value =
      props.choices.some((choice) => choice.id === word || choice.end === word) || /[.:]/.test(word)
        ? word
        : (complete(word, props.choices, 1)[0]?.id ?? word)
    return emit('done', rest.trim())
  }
  text.value = value
  if ((event as InputEvent).inputType === 'insertFromPaste') emit('pasted')
}

/** Whether the last choice was made by key; a click brings the focus back here first. */
const byKey = ref(false)
function chosen(option: Option | null): void {
  // The list also chooses when the focus leaves the field: by then the question has gone on.
  if (!option || (byKey.value && document.activeElement !== field.value)) return
  if (option.place) {
    field.value?.blur()
    return emit('go', option.place)
  }
  if (option.question) return emit('whole', option.question)
  text.value = option.id
  if (byKey.value) emit('done')
  // After a click the list gives the focus back to this field in the next frame; only then can it
  // go on.
  else requestAnimationFrame(() => requestAnimationFrame(() => emit('done')))
}

defineExpose({
  focus: () => {
    field.value?.focus()
    field.value?.select()
  },
})
</script>

<template>
  <Combobox :model-value="null" @update:model-value="chosen">
    <div class="relative flex min-w-0 flex-1 items-baseline gap-2">
      <span v-if="says !== ''" class="text-xs text-faint" aria-hidden="true">{{
        says ?? label
      }}</span>
      <ComboboxInput
        ref="input"
        class="h-7 w-full min-w-0 bg-transparent font-mono text-sm text-ink outline-none placeholder:text-faint"
        :display-value="() => text"
        :value="text"
        :aria-label="label"
        :placeholder="placeholder"
        autocomplete="off"
        spellcheck="false"
        @input="typed"
        @focus="emit('typing', true)"
        @blur="emit('typing', false)"
        @keydown.capture="byKey = true"
        @pointerdown="byKey = false"
        @keydown.ctrl.enter.prevent="emit('answer')"
      />
      <ComboboxOptions
        class="absolute top-8 left-0 z-30 max-h-80 w-[30rem] max-w-[80vw] overflow-auto border border-ink bg-paper py-1 outline-none"
      >
        <ComboboxOption
          v-for="option in options"
          :key="option.key"
          v-slot="{ active }"
          :value="option"
          as="template"
        >
          <li
            class="flex cursor-pointer items-baseline gap-3 px-3 py-1"
            :class="active ? 'bg-wash' : ''"
            @pointerdown="byKey = false"
          >
            <span v-if="option.place" class="shrink-0 text-xs text-soft">go to</span>
            <span class="mono shrink-0 text-ink">{{ option.id }}</span>
            <span class="truncate text-xs text-soft">{{ option.about }}</span>
          </li>
        </ComboboxOption>
      </ComboboxOptions>
    </div>
  </Combobox>
</template>
