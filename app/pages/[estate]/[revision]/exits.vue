<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import type { Mark } from '@salt-trail/core'
import { COLUMNS } from '~/exits/cells'
import { showEnd } from '~/questions/question-text'

/** Home: by which way the traffic of every subnet leaves. */
const estate = useEstate()
const questions = useQuestions()
const route = useRoute()
const matrix = ref<{ focus: () => void } | null>(null)
useHead({ title: computed(() => `Exits, ${estate.outline?.name ?? 'Salt Trail'}`) })

const onlyProblems = computed({
  get: () => route.query.only === 'problems',
  set: (only) => navigateTo({ query: { ...route.query, only: only ? 'problems' : undefined } }, { replace: true }),
})
const marked = computed(() => {
  const rows = estate.exits ?? []
  const rowsWith = (mark: Mark): number => rows.filter((row) => COLUMNS.some((column) => row[column.key].some((way) => way.mark === mark))).length
  return { leak: rowsWith('leak'), hole: rowsWith('hole') }
})

function ask(question: { from: string; to: string }): void {
  const ends = estate.outline?.ends ?? []
  const over = 'tcp 443'
  questions.text = { from: showEnd(question.from, ends), to: showEnd(question.to, ends), over }
  questions.remember({ ...questions.text })
  navigateTo({ path: `/${estate.slug}/${estate.revision}/trace`, query: { ...question, over } })
}

onKeyStroke('p', (event) => {
  if (!isTyping(event.target)) onlyProblems.value = !onlyProblems.value
})
const KEYS = [
  { keys: 'arrows', does: 'move' },
  { keys: 'Enter', does: 'trace' },
  { keys: 'Space', does: 'peek' },
  { keys: 'p', does: 'only problems' },
  { keys: 'PgUp PgDn Home End', does: 'further' },
]
const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`
</script>

<template>
  <AppShell :keys="KEYS">
    <div v-if="estate.outline && estate.exits" class="flex h-full flex-col">
      <h1 class="sr-only">Exits of {{ estate.outline.name }}</h1>
      <div class="flex h-9 shrink-0 items-center gap-[18px] px-4 text-xs text-soft">
        <span>leaving, by network</span>
        <label class="flex cursor-pointer items-center gap-1.5">
          <input v-model="onlyProblems" type="checkbox" class="accent-focus" />
          only problems
        </label>
        <span class="ml-auto flex items-center gap-1.5"><ProblemMark mark="leak" /> {{ count(marked.leak, 'leak', 'leaks') }}</span>
        <span class="flex items-center gap-1.5"><ProblemMark mark="hole" /> {{ count(marked.hole, 'black hole', 'black holes') }}</span>
      </div>
      <ExitMatrix ref="matrix" class="min-h-0 flex-1" :outline="estate.outline" :rows="estate.exits" :only-problems="onlyProblems" @trace="ask" />
    </div>
    <LoadState v-else />
  </AppShell>
</template>
