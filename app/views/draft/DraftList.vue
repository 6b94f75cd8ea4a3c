<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import type { DraftInfo } from '~/api/answers'
import { failureText } from '~/api/failure-text'

/** The drafts of an estate, and how to begin one. */
const estate = useEstate()
const draft = useDraft()
const { start, show, failure } = useTry()
const name = ref('')
const { data, error, refetch } = useQuery<DraftInfo[]>(() => ({
  key: ['drafts', estate.slug ?? '', draft.id ?? 0],
  query: ({ signal }) => $fetch<DraftInfo[]>(`/api/estates/${estate.slug}/drafts`, { signal }),
  enabled: estate.slug !== null,
}))
async function begin(): Promise<void> {
  if (await start(name.value.trim() || 'A draft', 'change')) await show()
}
async function open(id: number): Promise<void> {
  draft.open(id)
  await show()
}
async function throwAway(one: DraftInfo): Promise<void> {
  if (!window.confirm(`Throw the draft "${one.name}" away, with its changes?`)) return
  await $fetch(`/api/estates/${estate.slug}/drafts/${one.id}`, { method: 'DELETE' })
  if (draft.id === one.id) draft.close()
  await refetch()
}
</script>

<template>
  <div class="h-full overflow-auto px-4 pt-4 pb-6">
    <h1 class="mb-1 text-lg font-semibold tracking-tight">Drafts</h1>
    <p class="mb-4 max-w-3xl text-soft">
      A draft is a revision and changes that are tried in it. Every view can show it, its base, or
      what differs; nothing of the estate changes until it is saved as a revision.
    </p>
    <form class="mb-5 flex items-baseline gap-3" @submit.prevent="begin">
      <input
        v-model="name"
        class="w-80 border-b border-ink bg-transparent py-0.5"
        placeholder="what it is about"
        aria-label="Name of a new draft"
        maxlength="200"
      />
      <button type="submit" class="action action-main">
        Begin a draft of revision {{ estate.outline?.revision.number }}
      </button>
    </form>
    <p v-if="failure || error" role="alert" class="mb-3 text-leak">
      {{ failure || failureText(error) }}
    </p>
    <p v-if="data?.length === 0" class="text-soft">There is no draft of this estate yet.</p>
    <ul aria-label="Drafts of this estate">
      <li v-for="one in data ?? []" :key="one.id" class="border-b border-hair py-2">
        <p class="flex items-baseline gap-3">
          <button
            type="button"
            class="cursor-pointer font-semibold underline decoration-rule hover:decoration-ink"
            @click="open(one.id)"
          >
            {{ one.name }}
          </button>
          <span v-if="one.kind === 'outage'" class="text-xs text-draft">outage</span>
          <span class="text-xs text-soft"
            >{{ one.changes }} {{ one.changes === 1 ? 'change' : 'changes' }} to revision
            {{ one.base }}, by {{ one.author }}, {{ when(one.changedAt)
            }}<template v-if="one.savedAs">, saved as revision {{ one.savedAs }}</template></span
          >
          <button
            type="button"
            class="ml-auto cursor-pointer text-xs text-soft underline"
            :aria-label="`throw away ${one.name}`"
            @click="throwAway(one)"
          >
            throw away
          </button>
        </p>
        <p v-if="one.note" class="text-soft">{{ one.note }}</p>
      </li>
    </ul>
  </div>
</template>
