<script setup lang="ts">
import { explainCause, type MendPlan } from '@salt-trail/core'
import { changeLine } from '~/views/trace/mend-words'

/**
 * The smallest changes of the estate that would make the question work, one fault after the other;
 * or that would stop its packet.
 */
defineProps<{ plan: MendPlan | null; failure: string; stops?: boolean }>()
</script>

<template>
  <section aria-label="What would mend it">
    <h2 class="mb-1.5 font-semibold">What would mend it</h2>
    <p v-if="failure" role="alert" class="text-soft">{{ failure }}</p>
    <p v-else-if="plan === null" class="text-soft" role="status">trying the smallest changes …</p>
    <ol v-else>
      <li v-for="(mend, index) in plan.mends" :key="index" class="border-b border-hair py-1.5">
        <p class="flex items-baseline gap-2">
          <span class="font-semibold"
            >{{ plan.mends.length > 1 ? `${index + 1}. ` : '' }}{{ mend.what }}</span
          >
          <span v-if="mend.code" class="mono ml-auto shrink-0 text-faint">{{ mend.code }}</span>
        </p>
        <ul class="mt-0.5">
          <li
            v-for="(change, at) in mend.changes"
            :key="at"
            class="mono text-xs break-all text-soft"
          >
            {{ changeLine(change) }}
          </li>
        </ul>
      </li>
      <li v-if="stops" class="py-1.5 text-soft">
        {{
          plan.works
            ? 'Then this packet no longer gets through: it was tried. Other packets may still.'
            : 'Taking out rules or the route that let it through does not stop it.'
        }}
      </li>
      <li v-else-if="plan.works" class="py-1.5 text-soft">
        {{ plan.mends.length > 1 ? 'With all of these it works' : 'With this it works' }}, there and
        back: it was tried.
      </li>
      <li v-else-if="plan.stuckAt" class="py-1.5 text-soft">
        {{ plan.mends.length > 0 ? 'Then it still fails, and no' : 'No' }} single change of the
        estate helps: {{ explainCause(plan.stuckAt) }}
      </li>
    </ol>
  </section>
</template>
