<script setup lang="ts">
import type { RouteTarget, Rule, Route } from '@salt-trail/core'
import type { Objects } from '~/api/answers'
import { fieldsFor, withKey, wordsIn, type FieldKind, type FormField } from '~/views/draft/fields'
import { choicesFor } from '~/views/draft/reference-fields'
import { useObjectSchema } from '~/views/draft/useObjectSchema'

/** The form of an object: its keys as fields that offer only what can stand there. */
const props = defineProps<{
  section: string
  value: Readonly<Record<string, unknown>>
  objects: Objects | null
  targets: readonly RouteTarget[]
}>()
const emit = defineEmits<{ change: [value: Readonly<Record<string, unknown>>]; text: [] }>()
const { schema } = useObjectSchema(() => props.section)

const fields = computed((): FormField[] =>
  schema.value === null
    ? []
    : fieldsFor(schema.value, props.value, (key) =>
        props.objects === null ? null : choicesFor(props.section, key, props.objects),
      ),
)
const filled = computed(() => fields.value.filter(({ kind }) => kind !== 'text-only'))
const inText = computed(() =>
  fields.value.filter(({ kind, key }) => kind === 'text-only' && props.value[key] !== undefined),
)
const set = (key: string, now: unknown): void => emit('change', withKey(props.value, key, now))
const shown = (key: string): string => {
  const held = props.value[key]
  return Array.isArray(held) ? held.join(', ') : held === undefined ? '' : String(held)
}
/** What a text stands for in a field of a kind. */
const valueOf = (kind: FieldKind, text: string): unknown =>
  kind === 'texts' ? wordsIn(text) : kind === 'number' && text !== '' ? Number(text) : text
const chosen = (event: Event): string => (event.target as HTMLInputElement).value
const list = (key: string): readonly string[] => (props.value[key] as string[] | undefined) ?? []
</script>

<template>
  <form class="min-h-0 flex-1 overflow-auto" aria-label="The object as a form" @submit.prevent>
    <div
      v-for="field in filled"
      :key="field.key"
      class="grid grid-cols-[9.5rem_minmax(0,1fr)] items-baseline gap-x-3 border-b border-hair py-1"
    >
      <label :for="`field-${field.key}`" class="truncate text-soft"
        >{{ field.key }}<span v-if="field.required" title="has to be there"> *</span></label
      >
      <RouteRows
        v-if="field.kind === 'routes'"
        :routes="(value.routes as readonly Route[] | undefined) ?? []"
        :targets="targets"
        @change="set('routes', $event)"
      />
      <RuleRows
        v-else-if="field.kind === 'rules'"
        :rules="(value.rules as readonly Rule[] | undefined) ?? []"
        @change="set('rules', $event)"
      />
      <select
        v-else-if="field.kind === 'choice' || (field.kind === 'id' && field.choices.length <= 400)"
        :id="`field-${field.key}`"
        class="mono w-full border-b border-rule bg-paper py-0.5"
        :value="shown(field.key)"
        @change="set(field.key, chosen($event))"
      >
        <option value="">–</option>
        <option
          v-if="shown(field.key) !== '' && !field.choices.includes(shown(field.key))"
          :value="shown(field.key)"
        >
          {{ shown(field.key) }} (not in the estate)
        </option>
        <option v-for="one in field.choices" :key="one">{{ one }}</option>
      </select>
      <select
        v-else-if="field.kind === 'yes-no'"
        :id="`field-${field.key}`"
        class="border-b border-rule bg-paper py-0.5"
        :value="shown(field.key)"
        @change="set(field.key, chosen($event) === '' ? '' : chosen($event) === 'true')"
      >
        <option value="">as usual</option>
        <option value="true">yes</option>
        <option value="false">no</option>
      </select>
      <ChosenList
        v-else-if="field.kind === 'ids'"
        :id="`field-${field.key}`"
        :chosen="list(field.key)"
        :offered="field.choices.map((one) => ({ value: one, says: one }))"
        :from="field.key"
        @change="set(field.key, $event)"
      />
      <TypedInput
        v-else
        :id="`field-${field.key}`"
        class="mono w-full border-b border-rule bg-transparent py-0.5"
        :type="field.kind === 'number' ? 'number' : 'text'"
        :value="shown(field.key)"
        @typed="set(field.key, valueOf(field.kind, $event))"
      />
    </div>
    <p v-if="inText.length > 0" class="py-2 text-xs text-soft">
      {{ inText.map(({ key }) => key).join(', ') }}:
      <button type="button" class="cursor-pointer underline" @click="emit('text')">
        edit in the text
      </button>
    </p>
  </form>
</template>
