<script setup lang="ts">
import type { Route, RouteTarget, Rule } from '@salt-trail/core'
import type { ChoicesOf, FormField } from '~/views/draft/fields'
import { termsHint, termsOf, termsText } from '~/views/draft/terms'
import { valueOfWord, wordsIn } from '~/views/draft/words-in'

/** The field of one key: an input, a choice, a list, or fields of its own. */
const props = defineProps<{
  field: FormField
  /** The value under the key; undefined where there is none. */
  value: unknown
  /** What is told to screen readers and tests: the path of keys. */
  path: string
  choicesOf: ChoicesOf
  targets: readonly RouteTarget[]
}>()
const emit = defineEmits<{ change: [now: unknown] }>()

const id = computed(() => `field-${props.path}`)
const shown = computed(() => {
  if (props.field.terms) return (termsText(props.value) ?? []).join(', ')
  if (Array.isArray(props.value)) return props.value.join(', ')
  return props.value === undefined ? '' : String(props.value)
})
const list = computed(() => (Array.isArray(props.value) ? (props.value as readonly string[]) : []))
const chosen = (event: Event): string => (event.target as HTMLInputElement).value
const isList = computed(
  () => props.field.kind === 'texts' || (props.field.kind === 'all-or' && !hasIds.value),
)
const hasIds = computed(() => props.field.choices.length > 0)
/** What a text stands for in the field. */
function typed(text: string): void {
  const { kind, terms } = props.field
  if (terms) emit('change', termsOf(terms, text))
  else if (isList.value) emit('change', wordsIn(text))
  else if (kind === 'values') emit('change', wordsIn(text).map(valueOfWord))
  else if (kind === 'value') emit('change', text === '' ? '' : valueOfWord(text))
  else emit('change', kind === 'number' && text !== '' ? Number(text) : text)
}
const word = computed(() => (typeof props.value === 'string' ? props.value : ''))
</script>

<template>
  <RouteRows
    v-if="field.kind === 'routes'"
    :routes="(value as readonly Route[] | undefined) ?? []"
    :targets="targets"
    @change="emit('change', $event)"
  />
  <RuleRows
    v-else-if="field.kind === 'rules'"
    :rules="(value as readonly Rule[] | undefined) ?? []"
    :schema="field.inner!"
    @change="emit('change', $event)"
  />
  <FieldGroup
    v-else-if="field.kind === 'object'"
    :schema="field.inner!"
    :value="(value as Record<string, unknown> | undefined) ?? {}"
    :path="path"
    :choices-of="choicesOf"
    :targets="targets"
    @change="emit('change', $event)"
  />
  <FieldEntries
    v-else-if="field.kind === 'list' || field.kind === 'map'"
    :field="field"
    :value="value"
    :path="path"
    :choices-of="choicesOf"
    :targets="targets"
    @change="emit('change', $event)"
  />
  <span v-else-if="field.kind === 'all-or'" class="flex items-baseline gap-3">
    <select
      :id="id"
      class="border-b border-rule bg-paper py-0.5"
      :value="word"
      @change="emit('change', chosen($event))"
    >
      <option value="">{{ list.length > 0 ? 'these' : '–' }}</option>
      <option v-for="one in field.words" :key="one">{{ one }}</option>
    </select>
    <ChosenList
      v-if="hasIds"
      :id="`${id}-list`"
      :label="`${field.key}, one by one`"
      :chosen="list"
      :offered="field.choices.map((one) => ({ value: one, says: one }))"
      :from="field.key"
      @change="emit('change', $event)"
    />
    <TypedInput
      v-else
      class="mono w-full border-b border-rule bg-transparent py-0.5"
      :value="list.join(', ')"
      :aria-label="`${field.key}, one by one`"
      @typed="typed"
    />
  </span>
  <select
    v-else-if="field.kind === 'choice' || (field.kind === 'id' && field.choices.length <= 400)"
    :id="id"
    class="mono w-full border-b border-rule bg-paper py-0.5"
    :value="shown"
    @change="emit('change', chosen($event))"
  >
    <option value="">–</option>
    <option v-if="shown !== '' && !field.choices.includes(shown)" :value="shown">
      {{ shown }} (not in the estate)
    </option>
    <option v-for="one in field.choices" :key="one">{{ one }}</option>
  </select>
  <select
    v-else-if="field.kind === 'yes-no'"
    :id="id"
    class="border-b border-rule bg-paper py-0.5"
    :value="shown"
    @change="emit('change', chosen($event) === '' ? '' : chosen($event) === 'true')"
  >
    <option value="">as usual</option>
    <option value="true">yes</option>
    <option value="false">no</option>
  </select>
  <ChosenList
    v-else-if="field.kind === 'ids'"
    :id="id"
    :chosen="list"
    :offered="field.choices.map((one) => ({ value: one, says: one }))"
    :from="field.key"
    @change="emit('change', $event)"
  />
  <TypedInput
    v-else
    :id="id"
    class="mono w-full border-b border-rule bg-transparent py-0.5"
    :type="field.kind === 'number' ? 'number' : 'text'"
    :value="shown"
    :title="field.terms ? termsHint(field.terms) : ''"
    @typed="typed"
  />
</template>
