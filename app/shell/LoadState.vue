<script setup lang="ts">
/**
 * What a view shows while the estate is not there: loading, or what went wrong and how to go on.
 */
const estate = useEstate()
const again = (): void => {
  if (estate.slug) estate.show(estate.slug, estate.revision, true)
}
const running = computed(() =>
  estate.analysis?.state === 'running' ? estate.analysis.progress! : null,
)
const ended = computed(
  () => estate.analysis?.state === 'failed' || estate.analysis?.state === 'stopped',
)
</script>

<template>
  <div class="p-10">
    <div v-if="estate.failure" role="alert">
      <h1 class="mb-1 text-base font-semibold">This could not be shown</h1>
      <p class="mb-4 text-soft">{{ estate.failure }}</p>
      <button type="button" class="action action-main" @click="again">Try again</button>
      <NuxtLink to="/" class="action ml-2 inline-block">To the estates</NuxtLink>
    </div>
    <div v-else-if="ended" role="alert">
      <h1 class="mb-1 text-base font-semibold">This revision is not analysed</h1>
      <p class="mb-4 text-soft">
        {{ estate.analysis!.message }}. Traces, next hops and ways in can be asked all the same.
      </p>
      <button type="button" class="action action-main" @click="estate.analyseAgain()">
        Analyse again
      </button>
    </div>
    <div v-else role="status" class="text-soft">
      <p>
        {{
          estate.outline
            ? `Analysing: ${running?.about ?? 'taking what was found'} …`
            : 'Reading the estate …'
        }}
      </p>
      <progress
        v-if="running"
        class="mt-2 h-1.5 w-64"
        :value="running.done"
        :max="running.of"
        aria-label="How much of the analysis is done"
      />
    </div>
  </div>
</template>
