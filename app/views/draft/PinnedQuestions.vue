<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { verdictText, type Trace } from '@salt-trail/core'
import { transportOf } from '~/questions/over'
import { resolveEnd } from '~/questions/question-text'
import { useOverReader } from '~/questions/useOverReader'

/** Questions that are answered for the base and for the draft again after each change. */
const estate = useEstate()
const draft = useDraft()
const questions = useQuestions()
const ask = useAsk()
const readOver = useOverReader()

const pinned = computed(() => draft.draft?.pinned ?? [])
const asked = computed(() =>
  pinned.value.map(({ from, to, over }) => {
    const ends = estate.outline?.ends ?? []
    const transport = readOver(over)
    return {
      from: resolveEnd(from, ends) ?? from,
      to: resolveEnd(to, ends) ?? to,
      ...(transport === null || typeof transport === 'string' ? {} : transportOf(transport)),
    }
  }),
)
type Told = Trace | { readonly error: { readonly message: string } }
const answersOf = (base: () => string | null) =>
  useQuery<Told[]>(() => ({
    key: ['pinned', base() ?? '', JSON.stringify(asked.value)],
    query: ({ signal }) =>
      $fetch<Told[]>(`${base()}/traces`, { method: 'POST', body: asked.value, signal }),
    enabled: base() !== null && asked.value.length > 0,
  })).data
const before = answersOf(() => (draft.draft ? estate.baseOf(String(draft.draft.base)) : null))
const after = answersOf(() => (estate.outline?.draft ? estate.fixedBase : null))
const verdict = (answers: Told[] | undefined, at: number): string => {
  const one = answers?.[at]
  return one === undefined
    ? '…'
    : 'error' in one
      ? 'refused'
      : verdictText(one.verdict).toLowerCase()
}
const inBar = computed(() => questions.text.from !== '' && questions.text.to !== '')
const put = (next: readonly (typeof pinned.value)[number][]) => draft.describe({ pinned: next })
</script>

<template>
  <section class="pt-3" aria-label="Pinned questions">
    <div class="flex items-baseline gap-3">
      <h2 class="font-semibold">Pinned questions</h2>
      <button
        type="button"
        class="cursor-pointer text-xs underline disabled:text-faint disabled:no-underline"
        :disabled="!inBar"
        @click="put([...pinned, { ...questions.text }])"
      >
        pin the question in the bar
      </button>
    </div>
    <ul>
      <li
        v-for="(one, at) in pinned"
        :key="at"
        class="flex items-baseline gap-3 border-b border-hair py-1"
      >
        <button
          type="button"
          class="mono min-w-0 cursor-pointer truncate text-left underline"
          @click="ask(asked[at]!)"
        >
          {{ one.from }} → {{ one.to }} {{ one.over }}
        </button>
        <span class="ml-auto shrink-0 text-soft">{{ verdict(before, at) }}</span>
        <span aria-hidden="true">→</span>
        <span
          class="shrink-0"
          :class="verdict(before, at) === verdict(after, at) ? 'text-soft' : 'font-semibold'"
          ><span class="sr-only">in the draft </span>{{ verdict(after, at) }}</span
        >
        <button
          type="button"
          class="shrink-0 cursor-pointer px-1 text-faint hover:text-ink"
          :aria-label="`unpin ${one.from} to ${one.to}`"
          @click="put(pinned.filter((_, index) => index !== at))"
        >
          ×
        </button>
      </li>
    </ul>
  </section>
</template>
