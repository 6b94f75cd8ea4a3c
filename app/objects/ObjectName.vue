<script setup lang="ts">
/** The name of an object, which leads to its page. */
const props = defineProps<{
  /** `section/id`. */
  of: string
  /** What is said instead of the id. */
  says?: string
}>()
const estate = useEstate()
const id = computed(() => props.of.slice(props.of.indexOf('/') + 1))
</script>

<template>
  <NuxtLink
    class="underline decoration-rule underline-offset-2 hover:decoration-ink"
    :to="{ path: `/${estate.slug}/${estate.revision}/object`, query: { of } }"
    :title="of"
    >{{ says ?? id }}</NuxtLink
  >
</template>
