<script setup lang="ts">
import { useHistory } from '~/views/revisions/useHistory'
/**
 * When the estate was saved, by whom, from where; how much was wrong each time; and any two
 * compared.
 */
const estate = useEstate()
useHead({ title: computed(() => `Revisions, ${estate.outline?.name ?? 'Salt Trail'}`) })
const { history, failure, analysing, analyseAll } = useHistory()
const shown = computed(() => estate.outline?.revision.number ?? 0)
const NUMBER = /^\d+$/
const chosenRevision = textInAddress('revision', 'replace')
const chosenSince = textInAddress('since', 'replace')
const revision = computed({
  get: () => (NUMBER.test(chosenRevision.value) ? Number(chosenRevision.value) : shown.value),
  set: (number) => (chosenRevision.value = String(number)),
})
/** Compared with the one before it, unless another is chosen. */
const since = computed({
  get: () =>
    NUMBER.test(chosenSince.value)
      ? Number(chosenSince.value)
      : (history.value?.find(({ number }) => number < revision.value)?.number ?? revision.value),
  set: (number) => (chosenSince.value = String(number)),
})
/** The other one stays as it is shown, also where it was a default. */
function choose(chosen: { since?: number; revision?: number }): void {
  const pair = { since: since.value, revision: revision.value, ...chosen }
  since.value = pair.since
  revision.value = pair.revision
}
const notAnalysed = computed(
  () => (history.value ?? []).filter(({ counts }) => counts === null).length,
)
</script>

<template>
  <AppShell :keys="[]">
    <div
      v-if="estate.outline && history"
      class="grid h-full grid-cols-[430px_minmax(0,1fr)] max-lg:grid-cols-[42%_minmax(0,1fr)]"
    >
      <div class="flex min-h-0 flex-col border-r border-rule bg-paper">
        <h1 class="sr-only">Revisions of {{ estate.outline.name }}</h1>
        <div v-if="history.length > 1" class="shrink-0 border-b border-rule px-4 pt-3 pb-2">
          <ClientOnly><FindingsChart :history="history.slice(0, 60)" /></ClientOnly>
          <p v-if="notAnalysed > 0" class="text-xs text-soft">
            {{ notAnalysed }} not analysed.
            <button
              type="button"
              class="cursor-pointer border-b border-ink text-ink"
              :disabled="analysing"
              @click="analyseAll"
            >
              {{ analysing ? 'analysing …' : 'analyse them' }}
            </button>
          </p>
        </div>
        <div class="min-h-0 flex-1 overflow-y-auto" tabindex="0" aria-label="Revisions">
          <table class="w-full border-collapse">
            <thead>
              <tr class="sticky top-0 border-b border-ink bg-paper text-left text-xs text-soft">
                <th class="w-14 py-1.5 pl-4 font-medium" title="Compare this earlier one">from</th>
                <th class="w-9 py-1.5 font-medium" title="with this later one">to</th>
                <th class="py-1.5 pr-4 font-medium">revision</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="one in history"
                :key="one.number"
                class="border-b border-hair align-top"
                :class="one.number === shown ? 'bg-wash' : ''"
              >
                <td class="py-2 pl-4">
                  <input
                    type="radio"
                    name="since"
                    class="accent-focus"
                    :checked="one.number === since"
                    :aria-label="`From revision ${one.number}`"
                    @change="choose({ since: one.number })"
                  />
                </td>
                <td class="py-2 pr-3">
                  <input
                    type="radio"
                    name="revision"
                    class="accent-focus"
                    :checked="one.number === revision"
                    :aria-label="`To revision ${one.number}`"
                    @change="choose({ revision: one.number })"
                  />
                </td>
                <td class="py-2 pr-4">
                  <p class="flex items-baseline gap-2">
                    <b class="font-semibold">{{ one.number }}</b>
                    <span class="text-xs text-soft"
                      >{{ when(one.createdAt) }}, by {{ one.author }}, from {{ one.origin }}</span
                    >
                    <NuxtLink
                      v-if="one.number !== shown"
                      class="ml-auto border-b border-rule text-xs"
                      :to="`/${estate.slug}/${one.number}/exits`"
                      >look at it</NuxtLink
                    >
                    <span v-else class="ml-auto text-xs text-soft">on screen</span>
                  </p>
                  <p v-if="one.note">{{ one.note }}</p>
                  <p v-if="one.reason" class="text-weak">
                    Saved although an expectation breaks: {{ one.reason }}
                  </p>
                  <p v-if="one.counts" class="mt-0.5 flex gap-4 text-xs text-soft">
                    <span
                      >{{ one.counts.rootCauses }} root
                      {{ one.counts.rootCauses === 1 ? 'cause' : 'causes' }}</span
                    >
                    <span class="flex items-center gap-1"
                      ><ProblemMark mark="leak" :size="11" />{{ one.counts.leak }}</span
                    >
                    <span class="flex items-center gap-1"
                      ><ProblemMark mark="hole" :size="11" />{{ one.counts.hole }}</span
                    >
                    <span class="flex items-center gap-1"
                      ><ProblemMark mark="weak" :size="11" />{{ one.counts.weak }}</span
                    >
                    <span v-if="one.counts.broken > 0"
                      >{{ one.counts.broken }} broken expectation{{
                        one.counts.broken === 1 ? '' : 's'
                      }}</span
                    >
                  </p>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </div>
      <RevisionDifference :since="since" :revision="revision" />
    </div>
    <p v-else-if="failure" role="alert" class="p-4 text-leak">{{ failure }}</p>
    <LoadState v-else />
  </AppShell>
</template>
