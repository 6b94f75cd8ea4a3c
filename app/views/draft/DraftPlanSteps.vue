<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import type { DraftPlan } from '~/api/answers'
import { failureText } from '~/api/failure-text'
import { changeLine } from '~/consequences/change-line'

/** The changes of a draft in an order that can be carried out, with what each opens and cuts. */
const draft = useDraft()
const { data, error } = useQuery<DraftPlan>(() => ({
  key: ['plan', draft.path, draft.draft?.version ?? 0],
  query: ({ signal }) => $fetch<DraftPlan>(`${draft.path}/plan`, { signal }),
  enabled: draft.draft !== null,
}))
</script>

<template>
  <div class="min-h-0 flex-1 overflow-y-auto px-4 pb-4" tabindex="0" aria-label="Plan">
    <p v-if="error" role="alert" class="py-2 text-leak">{{ failureText(error) }}</p>
    <p v-else-if="!data" role="status" class="py-2 text-soft">
      looking for an order without a gap …
    </p>
    <p v-else-if="data.steps.length === 0" class="py-2 text-soft">Nothing differs from the base.</p>
    <template v-else>
      <p class="py-2">
        <template v-if="data.gapless"
          >After every step everything that works before and after works, and nothing else
          does.</template
        >
        <span v-else class="text-leak"
          >No order without a gap was found{{
            data.complete ? '' : '; the search was ended, so one may exist'
          }}. Steps with a gap say what is lost or open until it closes.</span
        >
      </p>
      <ol class="list-decimal pl-6">
        <li v-for="(step, at) in data.steps" :key="at" class="border-b border-hair py-1.5">
          <h2 class="font-semibold first-letter:uppercase">{{ step.what }}</h2>
          <PacketRows v-if="step.told.rows.length > 0" :packets="step.told" class="my-1" />
          <p v-for="gap in step.gap.slice(0, 5)" :key="gap" class="text-leak">gap: {{ gap }}</p>
          <ul>
            <li
              v-for="(operation, index) in step.changes"
              :key="index"
              class="mono break-all text-soft"
            >
              {{ changeLine(operation) }}
            </li>
          </ul>
        </li>
      </ol>
    </template>
  </div>
</template>
