<script setup lang="ts">
/** Loads the estate and revision of the address; its views are the pages inside. */
const route = useRoute()
const estate = useEstate()
const draft = useDraft()
watch(
  () => [route.params.estate, route.params.revision] as const,
  ([slug, revision]) => {
    if (typeof slug !== 'string' || typeof revision !== 'string') return
    void estate.show(slug, revision)
    const [, named] = /^draft-(\d+)$/.exec(revision) ?? []
    if (named) draft.open(Number(named))
  },
  { immediate: true },
)
</script>

<template>
  <NuxtPage />
</template>
