<script setup lang="ts">
import type { RouteTarget } from '@salt-trail/core'
import type { Objects } from '~/api/answers'
import { fieldFor } from '~/views/draft/fields'
import { choicesFor } from '~/views/draft/reference-fields'
import { useObjectSchema } from '~/views/draft/useObjectSchema'

/**
 * The form of an object: its keys as fields that offer only what can stand there; or of a section
 * that is a list, entry by entry.
 */
const props = defineProps<{
  section: string
  value: unknown
  objects: Objects | null
  targets: readonly RouteTarget[]
}>()
const emit = defineEmits<{ change: [value: unknown]; text: [] }>()
const { schema } = useObjectSchema(() => props.section)
const choicesOf = (key: string): readonly string[] | null =>
  props.objects === null ? null : choicesFor(props.section, key, props.objects)
const list = computed(() =>
  schema.value?.type === 'array' ? fieldFor(props.section, schema.value, null) : null,
)
</script>

<template>
  <form class="min-h-0 flex-1 overflow-auto" aria-label="The object as a form" @submit.prevent>
    <FieldEntries
      v-if="list"
      :field="list"
      :value="value"
      :path="section"
      :choices-of="choicesOf"
      :targets="targets"
      @change="emit('change', $event)"
    />
    <FieldGroup
      v-else-if="schema"
      :schema="schema"
      :value="value as Readonly<Record<string, unknown>>"
      path=""
      :choices-of="choicesOf"
      :targets="targets"
      @change="emit('change', $event)"
      @text="emit('text')"
    />
  </form>
</template>
