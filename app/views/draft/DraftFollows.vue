<script setup lang="ts">
/** What the draft brings about, alive while it is edited, and the questions that are pinned. */
const draft = useDraft()
const foresight = useDraftForesight()
foresight.wantWhile(() => true)

const standing = computed(() => draft.draft?.changes.some(({ stands }) => stands) === true)
const isEditing = computed(() => foresight.pending.length > 0)
</script>

<template>
  <div
    class="min-h-0 overflow-y-auto px-4 pb-6 max-lg:border-t max-lg:border-rule"
    tabindex="0"
    aria-label="What follows from the draft"
    aria-live="polite"
  >
    <PinnedQuestions />
    <p v-if="isEditing" class="mt-3 text-xs text-draft">
      With what is being edited, which is no change yet.
    </p>
    <p v-if="!standing && !isEditing" class="mt-4 text-soft">
      Here stands what the draft opens and cuts, which findings come and go, which expectations turn
      and what partners see, as soon as something is changed.
    </p>
    <WhatFollows
      v-else
      :state="foresight.state"
      :message="foresight.message"
      :found="foresight.found"
      :milliseconds="foresight.milliseconds"
      :problems="foresight.problems"
    />
  </div>
</template>
