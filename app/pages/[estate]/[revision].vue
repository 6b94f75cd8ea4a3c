<script setup lang="ts">
import { PARAMETERS, unknownParameters, viewOf } from '~/composables/parameters'

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
const unknown = computed(() => unknownParameters(route.path, route.query))
const known = computed(() => PARAMETERS[viewOf(route.path)] ?? [])
const withoutUnknown = computed(() => ({
  query: Object.fromEntries(
    Object.entries(route.query).filter(([key]) => !unknown.value.includes(key)),
  ),
}))
</script>

<template>
  <AppShell v-if="unknown.length > 0" :keys="[]">
    <div class="p-10" role="alert">
      <h1 class="mb-1 text-base font-semibold">This link cannot be followed</h1>
      <p class="text-soft">
        It says <span class="mono text-ink">{{ unknown.join(', ') }}</span>, which this view does
        not know. It knows
        <span class="mono text-ink">{{ known.join(', ') || 'nothing of the kind' }}</span>.
      </p>
      <NuxtLink class="mt-3 inline-block underline" :to="withoutUnknown"
        >Follow it without that</NuxtLink
      >
    </div>
  </AppShell>
  <NuxtPage v-else />
</template>
