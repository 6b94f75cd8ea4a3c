<script setup lang="ts">
import type { RouteTarget } from '@salt-trail/core'
import type { Objects } from '~/api/answers'
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
const choicesOf = (key: string): readonly string[] | null =>
  props.objects === null ? null : choicesFor(props.section, key, props.objects)
</script>

<template>
  <form class="min-h-0 flex-1 overflow-auto" aria-label="The object as a form" @submit.prevent>
    <FieldGroup
      v-if="schema"
      :schema="schema"
      :value="value"
      path=""
      :choices-of="choicesOf"
      :targets="targets"
      @change="emit('change', $event)"
      @text="emit('text')"
    />
  </form>
</template>
