<script setup lang="ts">
import type { RouteTarget } from '@salt-trail/core'
import { fieldFor, type ChoicesOf, type FormField } from '~/views/draft/fields'

/** The entries of a list or of a map by name, each with its fields; some are added and taken out. */
const props = defineProps<{
  field: FormField
  value: unknown
  path: string
  choicesOf: ChoicesOf
  targets: readonly RouteTarget[]
}>()
const emit = defineEmits<{ change: [now: unknown] }>()

interface Entry {
  readonly name: string
  readonly value: unknown
}
const isMap = computed(() => props.field.kind === 'map')
const entries = computed((): Entry[] =>
  Object.entries((props.value as object | undefined) ?? {}).map(([name, value]) => ({
    name,
    value,
  })),
)
function tell(now: readonly Entry[]): void {
  const values = now.map(({ value }) => value)
  emit(
    'change',
    isMap.value ? Object.fromEntries(now.map(({ name, value }) => [name, value])) : values,
  )
}
const put = (at: number, value: unknown): void =>
  tell(entries.value.map((one, index) => (index === at ? { ...one, value } : one)))
const takeOut = (at: number): void => tell(entries.value.filter((_, index) => index !== at))
const added = ref('')
/** A new entry is empty; where entries have an order, it comes after the last one. */
function add(): void {
  const name = isMap.value ? added.value.trim() : String(entries.value.length)
  if (name === '' || entries.value.some((one) => isMap.value && one.name === name)) return
  tell([...entries.value, { name, value: startOf() }])
  added.value = ''
}
const inner = computed(() => props.field.inner!)
const isObject = computed(() => inner.value.properties !== undefined)
function startOf(): unknown {
  if (!isObject.value) return inner.value.type === 'array' || inner.value.anyOf ? [] : ''
  const orders = entries.value.map(({ value }) => (value as { order?: number }).order ?? 0)
  return inner.value.properties!.order ? { order: Math.max(0, ...orders) + 10 } : {}
}
const fieldOf = (name: string): FormField =>
  fieldFor(name, inner.value, props.field.choices.length > 0 ? props.field.choices : null)
const one = computed(() => props.field.key.replace(/ies$/, 'y').replace(/s$/, ''))
</script>

<template>
  <div class="min-w-0">
    <div
      v-for="(entry, at) in entries"
      :key="entry.name"
      class="mb-1.5 grid grid-cols-[minmax(0,1fr)_1.5rem] items-baseline gap-x-2"
      role="group"
      :aria-label="`${one} ${isMap ? entry.name : at + 1}`"
    >
      <div :class="isMap && !isObject ? 'grid grid-cols-[7.5rem_minmax(0,1fr)] gap-x-3' : ''">
        <span v-if="isMap" class="mono truncate">{{ entry.name }}</span>
        <FieldGroup
          v-if="isObject"
          :schema="inner"
          :value="entry.value as Record<string, unknown>"
          :path="`${path}.${entry.name}`"
          :choices-of="choicesOf"
          :targets="targets"
          @change="put(at, $event)"
        />
        <FieldInput
          v-else
          :field="fieldOf(entry.name)"
          :value="entry.value"
          :path="`${path}.${entry.name}`"
          :choices-of="choicesOf"
          :targets="targets"
          :aria-label="entry.name"
          @change="put(at, $event)"
        />
      </div>
      <button
        type="button"
        class="cursor-pointer text-faint hover:text-ink"
        :aria-label="`take ${isMap ? entry.name : `${one} ${at + 1}`} out`"
        @click="takeOut(at)"
      >
        ×
      </button>
    </div>
    <span class="flex items-baseline gap-2">
      <input
        v-if="isMap"
        v-model="added"
        class="mono w-40 border-b border-rule bg-transparent py-0.5 placeholder:text-faint"
        :placeholder="`name of another`"
        :aria-label="`name of another of ${field.key}`"
        autocomplete="off"
        spellcheck="false"
        @keydown.enter.prevent="add"
      />
      <button type="button" class="cursor-pointer text-xs underline" @click="add">
        add {{ isMap ? '' : one }}
      </button>
    </span>
  </div>
</template>
