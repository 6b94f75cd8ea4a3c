<script setup lang="ts">
import type { RouteTarget } from '@salt-trail/core'
import type { FieldSchema } from '~/views/draft/field-schema'
import { fieldsFor, withKey, type ChoicesOf } from '~/views/draft/fields'

/** The fields of an object, or of one that stands in another; what is text only is named. */
const props = defineProps<{
  schema: FieldSchema
  value: Readonly<Record<string, unknown>>
  /** The keys that lead here; empty for the object itself. */
  path: string
  choicesOf: ChoicesOf
  targets: readonly RouteTarget[]
}>()
const emit = defineEmits<{
  change: [value: Readonly<Record<string, unknown>>]
  text: []
}>()
const fields = computed(() => fieldsFor(props.schema, props.value, props.choicesOf))
const isInner = computed(() => props.path !== '')
/** Inside another object, what stands beside its own keys is shown only where it is used. */
const SELDOM = ['title', 'note', 'state']
const filled = computed(() =>
  fields.value.filter(
    ({ kind, key }) =>
      kind !== 'text-only' &&
      !(isInner.value && SELDOM.includes(key) && props.value[key] === undefined),
  ),
)
const inText = computed(() =>
  fields.value.filter(({ kind, key }) => kind === 'text-only' && props.value[key] !== undefined),
)
const pathOf = (key: string): string => (isInner.value ? `${props.path}.${key}` : key)
</script>

<template>
  <div :class="isInner ? 'border-l border-rule pl-3' : ''">
    <div
      v-for="field in filled"
      :key="field.key"
      class="grid items-baseline gap-x-3 border-hair py-1"
      :class="
        isInner ? 'grid-cols-[7.5rem_minmax(0,1fr)]' : 'grid-cols-[9.5rem_minmax(0,1fr)] border-b'
      "
    >
      <label :for="`field-${pathOf(field.key)}`" class="truncate text-soft"
        >{{ field.key }}<span v-if="field.required" title="has to be there"> *</span></label
      >
      <FieldInput
        :field="field"
        :value="value[field.key]"
        :path="pathOf(field.key)"
        :choices-of="choicesOf"
        :targets="targets"
        @change="emit('change', withKey(value, field.key, $event))"
      />
    </div>
    <p v-if="inText.length > 0" class="py-2 text-xs text-soft">
      {{ inText.map(({ key }) => key).join(', ') }}:
      <button v-if="!isInner" type="button" class="cursor-pointer underline" @click="emit('text')">
        edit in the text
      </button>
      <template v-else>edit in the text</template>
    </p>
  </div>
</template>
