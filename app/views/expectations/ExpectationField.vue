<script setup lang="ts">
/** One field of the form: a label and a text; some complete from the words the estate knows. */
defineProps<{ label: string; placeholder?: string; list?: string; narrow?: boolean }>()
const text = defineModel<string>({ required: true })
const field = ref<HTMLInputElement | null>(null)
defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <label
    class="grid items-baseline gap-2"
    :class="narrow ? 'grid-cols-[48px_1fr]' : 'grid-cols-[72px_1fr]'"
    ><span class="text-xs text-soft">{{ label }}</span
    ><input
      ref="field"
      v-model="text"
      class="border-b border-rule bg-transparent px-1 py-0.5"
      :list="list"
      :placeholder="placeholder"
      spellcheck="false"
    />
  </label>
</template>
