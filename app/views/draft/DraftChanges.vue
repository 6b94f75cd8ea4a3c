<script setup lang="ts">
import { changeLine } from '~/consequences/change-line'

/** The changes of a draft in their order, what is being typed in it, and undoing. */
const draft = useDraft()
const estate = useEstate()
const changes = computed(() => draft.draft?.changes ?? [])
const open = ref<number | null>(null)
const MOST_LINES = 12
const link = (object: string) => ({
  path: `/${estate.slug}/draft-${draft.id}/draft`,
  query: { do: 'edit', object },
})
</script>

<template>
  <div class="min-h-0 flex-1 overflow-y-auto px-4 pb-4" tabindex="0" aria-label="Changes">
    <p class="flex gap-4 py-2 text-xs">
      <button
        type="button"
        class="cursor-pointer underline disabled:text-faint disabled:no-underline"
        :disabled="draft.isBusy || draft.draft?.undo === null"
        @click="draft.undo()"
      >
        undo
      </button>
      <button
        type="button"
        class="cursor-pointer underline disabled:text-faint disabled:no-underline"
        :disabled="draft.isBusy || draft.draft?.redo === null"
        @click="draft.redo()"
      >
        redo
      </button>
    </p>
    <div v-if="changes.length === 0 && draft.draft?.texts.length === 0" class="text-soft">
      <p class="mb-2">
        Nothing is changed yet. Edit an object, take a move, or try a proposal of a finding or of a
        faulty trace in this draft.
      </p>
    </div>
    <ol>
      <li
        v-for="one in changes"
        :key="one.number"
        class="border-b border-hair py-1.5"
        :class="one.stands ? '' : 'text-faint'"
      >
        <p class="flex items-baseline gap-3">
          <button
            type="button"
            class="min-w-0 cursor-pointer text-left first-letter:uppercase"
            :class="one.stands ? '' : 'line-through'"
            :aria-expanded="open === one.number"
            @click="open = open === one.number ? null : one.number"
          >
            {{ one.what }}
          </button>
          <span class="ml-auto shrink-0 text-xs text-soft"
            >{{ one.author }}, {{ when(one.createdAt) }}</span
          >
          <button
            v-if="one.stands"
            type="button"
            class="shrink-0 cursor-pointer text-xs underline"
            :disabled="draft.isBusy"
            :aria-label="`take back: ${one.what}`"
            @click="draft.undo(one.number)"
          >
            take back
          </button>
        </p>
        <ul v-if="open === one.number">
          <li
            v-for="(operation, at) in one.change.slice(0, MOST_LINES)"
            :key="at"
            class="mono break-all text-soft"
          >
            {{ changeLine(operation as never) }}
          </li>
          <li v-if="one.change.length > MOST_LINES" class="text-xs text-soft">
            and {{ one.change.length - MOST_LINES }} more
          </li>
        </ul>
      </li>
    </ol>
    <section v-if="(draft.draft?.texts.length ?? 0) > 0" class="mt-3">
      <h2 class="font-semibold">Being typed, and no change yet</h2>
      <ul>
        <li
          v-for="text in draft.draft!.texts"
          :key="`${text.object} ${text.author}`"
          class="border-b border-hair py-1"
        >
          <NuxtLink class="mono underline" :to="link(text.object)">{{ text.object }}</NuxtLink>
          <span class="text-xs text-soft"> by {{ text.author }}, {{ when(text.changedAt) }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>
