<script setup lang="ts">
/** Loads the estate and revision of the address; its views are the pages inside. */
const route = useRoute()
const estate = useEstate()
watch(
  () => [route.params.estate, route.params.revision] as const,
  ([slug, revision]) => {
    if (typeof slug === 'string' && typeof revision === 'string') estate.show(slug, revision)
  },
  { immediate: true },
)
</script>

<template>
  <NuxtPage />
</template>
