<script setup lang="ts">
/**
 * A view of the draft or of its base; while the difference is looked at, what of it belongs to the
 * view.
 */
export type DifferencePart = 'exits' | 'packets' | 'findings' | 'expectations' | 'seen' | 'all'
defineProps<{ part: DifferencePart; title: string }>()
const { world, against } = useWorld()
const estate = useEstate()
const draft = useDraft()
const foresight = useDraftForesight()
foresight.wantWhile(() => world.value === 'difference')
const version = computed(() => {
  const shown = estate.outline?.draft
  return shown ? `draft-${shown.id}.${shown.version}` : null
})
</script>

<template>
  <slot v-if="world !== 'difference'" />
  <AppShell v-else>
    <RevisionDifference
      v-if="part === 'all' && against && version"
      class="h-full"
      :since="against"
      :revision="version"
    />
    <div v-else class="h-full overflow-auto px-4 pb-6" tabindex="0" :aria-label="title">
      <h1 class="pt-4 text-lg font-semibold tracking-tight">{{ title }}</h1>
      <p class="text-soft">
        Between revision {{ draft.draft?.base }} and the draft {{ draft.draft?.name }}.
      </p>
      <slot v-if="against !== null" name="difference" :since="against" />
      <WhatFollows
        :state="foresight.state"
        :message="foresight.message"
        :found="foresight.found"
        :milliseconds="foresight.milliseconds"
        :problems="foresight.problems"
        :only="part"
      />
    </div>
  </AppShell>
</template>
