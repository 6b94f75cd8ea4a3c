<script setup lang="ts">
/** Ids that are chosen, each with a button that takes it out, and a list of those to add. */
const props = defineProps<{
  id: string
  chosen: readonly string[]
  offered: readonly { readonly value: string; readonly says: string }[]
  /** What they are taken out of, in the words of the button. */
  from?: string
  /** The name of the list of those to add, where no label names it. */
  label?: string
}>()
const emit = defineEmits<{ change: [chosen: readonly string[]] }>()
const MOST_OFFERED = 1_000
const open = computed(() =>
  props.offered.filter(({ value }) => !props.chosen.includes(value)).slice(0, MOST_OFFERED),
)
function add(event: Event): void {
  const { value } = event.target as HTMLSelectElement
  if (value !== '') emit('change', [...props.chosen, value])
}
const takeOut = (one: string): void =>
  emit(
    'change',
    props.chosen.filter((other) => other !== one),
  )
</script>

<template>
  <span class="flex flex-wrap items-baseline gap-x-3">
    <span v-for="one in chosen" :key="one" class="mono"
      >{{ one }}
      <button
        type="button"
        class="cursor-pointer px-0.5 text-faint hover:text-ink"
        :aria-label="from ? `take ${one} out of ${from}` : `take ${one} out`"
        @click="takeOut(one)"
      >
        ×
      </button></span
    >
    <select
      :id="id"
      :aria-label="label"
      class="max-w-full border-b border-rule bg-paper py-0.5 text-soft"
      value=""
      @change="add"
    >
      <option value="">add …</option>
      <option v-for="one in open" :key="one.value" :value="one.value">{{ one.says }}</option>
    </select>
    <slot />
  </span>
</template>
