<script setup lang="ts">
import { explainCause, type Branch, type Mend } from '@salt-trail/core'
import { changeLine } from '~/trace/mend-words'

/** For each fault of the path the smallest change of the estate that makes it go. */
const props = defineProps<{ branch: Branch; mends: readonly Mend[] | null; failure: string }>()
const rows = computed(() => props.branch.faults.map((fault, index) => ({ fault, index, mend: props.mends?.find((one) => one.fault === index) ?? null })))
</script>

<template>
  <section v-if="branch.faults.length > 0" aria-label="What would mend it">
    <h2 class="mb-1.5 font-semibold">What would mend it</h2>
    <p v-if="failure" role="alert" class="text-soft">{{ failure }}</p>
    <p v-else-if="mends === null" class="text-soft" role="status">looking for the smallest change …</p>
    <ol v-else>
      <li v-for="{ fault, index, mend } in rows" :key="index" class="border-b border-hair py-1.5">
        <p class="flex items-baseline gap-2">
          <span class="mono shrink-0 text-faint">{{ fault.code }}</span>
          <span v-if="mend" class="font-semibold">{{ mend.sentence }}</span>
          <span v-else class="text-soft">No change of the estate alone would: {{ explainCause(fault) }}</span>
        </p>
        <ul v-if="mend" class="mt-0.5">
          <li v-for="(change, at) in mend.changes" :key="at" class="mono text-xs break-all text-soft">{{ changeLine(change) }}</li>
        </ul>
      </li>
    </ol>
  </section>
</template>
