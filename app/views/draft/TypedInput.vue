<script setup lang="ts">
/**
 * A field whose text is told while it is typed. As long as it has the focus it keeps what is typed,
 * whatever is made of it and whoever else changes the value meanwhile.
 */
const props = defineProps<{ value: string }>()
const emit = defineEmits<{ typed: [text: string] }>()
const typed = ref(props.value)
const hasFocus = ref(false)
watch([() => props.value, hasFocus], ([value, isHeld]) => {
  if (!isHeld) typed.value = value
})
function type(event: Event): void {
  typed.value = (event.target as HTMLInputElement).value
  emit('typed', typed.value)
}
</script>

<template>
  <input
    :value="typed"
    autocomplete="off"
    spellcheck="false"
    @input="type"
    @focus="hasFocus = true"
    @blur="hasFocus = false"
  />
</template>
