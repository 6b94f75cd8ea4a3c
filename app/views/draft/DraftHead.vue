<script setup lang="ts">
/** The name and the note of a draft, edited where they stand; what could not follow its base. */
const draft = useDraft()
const value = (event: Event): string => (event.target as HTMLInputElement).value.trim()
function rename(event: Event): void {
  if (value(event) !== '') void draft.describe({ name: value(event) })
}
</script>

<template>
  <header v-if="draft.draft" class="shrink-0 px-4 pt-3 pb-2">
    <h1 class="sr-only">Draft {{ draft.draft.name }}</h1>
    <TypedInput
      class="w-full bg-transparent text-base font-semibold"
      :value="draft.draft.name"
      aria-label="Name of the draft"
      maxlength="200"
      @change="rename"
    />
    <TypedInput
      class="w-full bg-transparent text-soft placeholder:text-faint"
      :value="draft.draft.note"
      placeholder="a note: what it is for"
      aria-label="Note of the draft"
      maxlength="2000"
      @change="draft.describe({ note: value($event) })"
    />
    <p class="text-xs text-soft">
      by {{ draft.draft.author }}, begun {{ when(draft.draft.createdAt)
      }}<template v-if="draft.draft.savedAs"
        >, saved as revision {{ draft.draft.savedAs }}</template
      >
    </p>
    <p v-if="!draft.draft.baseIsThere" role="alert" class="mt-2 text-leak">
      Revision {{ draft.draft.base }}, in which it was made, is gone. Its changes are kept.
      <button type="button" class="cursor-pointer underline" @click="draft.rebase()">
        Put it on revision {{ draft.draft.head }}
      </button>
    </p>
    <section
      v-if="draft.draft.conflicts.length > 0"
      class="mt-2 border-l-2 border-leak pl-3"
      aria-label="What could not follow"
    >
      <h2 class="font-semibold">Not as it was meant</h2>
      <ul>
        <li v-for="(one, index) in draft.draft.conflicts" :key="index" class="break-words">
          <b class="font-semibold">{{ one.what }}</b>: {{ one.reason }}.
          {{ one.kept ? 'It is made over what stands there.' : 'It is set aside.' }}
        </li>
      </ul>
      <button
        type="button"
        class="cursor-pointer text-xs underline"
        @click="draft.describe({ conflictsRead: true })"
      >
        read
      </button>
    </section>
  </header>
</template>
