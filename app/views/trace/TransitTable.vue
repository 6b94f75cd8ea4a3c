<script setup lang="ts">
/** The routes of a transit's table that cover the address. */
export interface TransitEvidence {
  readonly table: string | null
  readonly address: string
  readonly candidates: readonly {
    readonly to: string
    readonly via: string
    readonly origin: string
    readonly outcome: string
  }[]
}
defineProps<{ evidence: TransitEvidence; name: string }>()
</script>

<template>
  <section>
    <h2 class="mb-1.5 font-semibold">
      {{ evidence.candidates.length === 0 ? 'No route covers' : 'Routes for' }}
      <span class="mono">{{ evidence.address }}</span> in {{ name
      }}<template v-if="evidence.table">, table {{ evidence.table }}</template>
    </h2>
    <table v-if="evidence.candidates.length > 0" class="w-full border-collapse">
      <tbody>
        <tr
          v-for="(candidate, index) in evidence.candidates"
          :key="index"
          class="border-b border-hair"
          :class="candidate.outcome === 'won' ? 'bg-wash' : ''"
        >
          <td class="mono py-1 pr-3 pl-2.5">{{ candidate.to }}</td>
          <td class="py-1 pr-3">attachment {{ candidate.via }}</td>
          <td class="py-1 pr-3">{{ candidate.origin }}</td>
          <td class="py-1">{{ candidate.outcome }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
