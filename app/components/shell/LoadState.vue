<script setup lang="ts">
/** What a view shows while the estate is not there: loading, or what went wrong and how to go on. */
const estate = useEstate()
const again = (): void => {
  if (estate.slug) estate.show(estate.slug, estate.revision, true)
}
</script>

<template>
  <div class="p-10">
    <div v-if="estate.failure" role="alert">
      <h1 class="mb-1 text-base font-semibold">This could not be shown</h1>
      <p class="mb-4 text-soft">{{ estate.failure }}</p>
      <button type="button" class="action action-main" @click="again">Try again</button>
      <NuxtLink to="/" class="action ml-2 inline-block">To the estates</NuxtLink>
    </div>
    <p v-else role="status" class="text-soft">{{ estate.outline ? 'Computing every way out …' : 'Reading the estate …' }}</p>
  </div>
</template>
