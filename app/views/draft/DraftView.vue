<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import type { KeyHint } from '~/shell/StatusLine.vue'

/**
 * A draft: its changes, the editing of objects, moves, the plan and saving on one side, what all of
 * it brings about on the other.
 */
const estate = useEstate()
const draft = useDraft()
useHead({ title: computed(() => `${draft.draft?.name ?? 'Drafts'}, Salt Trail`) })
const TABS = [
  { name: 'changes', title: 'Changes' },
  { name: 'edit', title: 'Edit an object' },
  { name: 'move', title: 'Moves' },
  { name: 'plan', title: 'Plan' },
  { name: 'save', title: 'Save and export' },
] as const
const tab = choiceInAddress(
  'do',
  'push',
  TABS.map(({ name }) => name),
  'changes',
)
const isOpen = computed(() => draft.draft !== null && estate.revision === `draft-${draft.draft.id}`)
const keys = computed((): readonly KeyHint[] =>
  isOpen.value
    ? [
        { keys: 'Ctrl Z', does: 'undo' },
        { keys: 'Ctrl Shift Z', does: 'redo' },
        { keys: 'd', does: 'draft, base, difference' },
      ]
    : [],
)
onKeyStroke(['z', 'Z'], (event) => {
  if (!isOpen.value || !(event.ctrlKey || event.metaKey) || isTyping(event.target)) return
  event.preventDefault()
  void (event.shiftKey ? draft.redo() : draft.undo())
})
</script>

<template>
  <AppShell :keys="keys">
    <DraftList v-if="!isOpen" />
    <div
      v-else
      class="grid h-full grid-cols-[minmax(0,1fr)_minmax(0,1fr)] max-lg:grid-cols-[minmax(0,1fr)]"
    >
      <div class="flex min-h-0 flex-col border-r border-rule bg-paper">
        <DraftHead />
        <div
          class="flex shrink-0 gap-5 border-b border-rule px-4"
          role="tablist"
          aria-label="The draft"
        >
          <button
            v-for="one in TABS"
            :key="one.name"
            type="button"
            role="tab"
            class="cursor-pointer border-b-2 py-1"
            :class="
              tab === one.name
                ? 'border-draft font-semibold'
                : 'border-transparent text-soft hover:text-ink'
            "
            :aria-selected="tab === one.name"
            @click="tab = one.name"
          >
            {{ one.title }}
          </button>
        </div>
        <p v-if="draft.failure" role="alert" class="shrink-0 px-4 py-2 text-leak">
          {{ draft.failure }}
        </p>
        <p v-if="draft.overwritten.length > 0" role="status" class="shrink-0 px-4 py-2 text-weak">
          Somebody else wrote there meanwhile: {{ draft.overwritten.join(', ') }}. Both changes are
          kept; this one came last.
        </p>
        <DraftChanges v-if="tab === 'changes'" />
        <ObjectEditor v-else-if="tab === 'edit'" />
        <DraftMoves v-else-if="tab === 'move'" />
        <DraftPlanSteps v-else-if="tab === 'plan'" />
        <DraftSave v-else />
      </div>
      <DraftFollows />
    </div>
  </AppShell>
</template>
