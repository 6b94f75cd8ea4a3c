<script setup lang="ts">
import type { FactsEvidence } from '@salt-trail/core'

/** What an element looked at in the packet, one condition a line, and which of them held. */
defineProps<{ evidence: FactsEvidence; name: string; decision: string }>()
</script>

<template>
  <section v-if="evidence.facts.length > 0">
    <h2 class="mb-1 font-semibold">What {{ name }} looked at</h2>
    <table class="w-full border-collapse">
      <thead>
        <tr class="text-left text-xs text-soft">
          <th class="w-16 border-b border-rule py-1 font-normal">held</th>
          <th class="border-b border-rule py-1 font-normal">condition</th>
          <th class="border-b border-rule py-1 font-normal">found</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(one, index) in evidence.facts"
          :key="index"
          :class="one.holds ? '' : 'font-semibold'"
        >
          <td class="border-b border-hair py-1">{{ one.holds ? 'yes' : 'no' }}</td>
          <td class="border-b border-hair py-1 pr-3">{{ one.asks }}</td>
          <td class="mono border-b border-hair py-1">{{ one.found }}</td>
        </tr>
      </tbody>
    </table>
    <p class="mt-1 text-soft">{{ decision }}</p>
  </section>
</template>
