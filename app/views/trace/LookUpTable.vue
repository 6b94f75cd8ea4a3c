<script setup lang="ts">
import type { LookUpEvidence } from '@salt-trail/core'

/** Every route that covers the address: the winner, and why each other one lost. */
const props = defineProps<{ evidence: LookUpEvidence }>()
const table = computed(() => props.evidence.table?.slice('routeTables/'.length) ?? null)
const priorities = computed(() =>
  props.evidence.candidates.some((candidate) => candidate.priority !== null),
)
</script>

<template>
  <section>
    <h2 class="mb-1.5 font-semibold">
      {{ evidence.candidates.length === 0 ? 'No route covers' : 'Why this route won, for' }}
      <span class="mono">{{ evidence.address }}</span><template v-if="table"
        >, at {{ table }}</template
      >
    </h2>
    <p v-if="evidence.tableIs !== 'own'" class="mb-2 text-xs text-soft">
      {{
        evidence.tableIs === 'none'
          ? 'No table is associated here, and the network has no default one: only built-in routes hold.'
          : `${evidence.subnet.slice('subnets/'.length)} has no table of its own; its network’s default table, ${table}, holds.`
      }}
    </p>
    <table v-if="evidence.candidates.length > 0" class="w-full border-collapse">
      <thead>
        <tr class="border-b border-ink text-left text-xs text-soft">
          <th class="py-1 pr-3 pl-2.5 font-medium">destination</th>
          <th class="py-1 pr-3 font-medium">next hop</th>
          <th class="py-1 pr-3 font-medium">origin</th>
          <th v-if="priorities" class="py-1 pr-3 font-medium">priority</th>
          <th class="py-1 font-medium">outcome</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(candidate, index) in evidence.candidates"
          :key="index"
          class="border-b border-hair align-top"
          :class="candidate.outcome === 'won' ? 'bg-wash' : ''"
        >
          <td
            class="mono py-1 pr-3 pl-2.5"
            :class="candidate.outcome === 'won' ? 'shadow-[inset_3px_0_var(--focus)]' : ''"
          >
            {{ candidate.to
            }}<span v-if="candidate.writtenTo" class="block font-sans text-xs text-soft"
              >written to {{ candidate.writtenTo }}</span
            >
          </td>
          <td class="py-1 pr-3">{{ candidate.via }}</td>
          <td class="py-1 pr-3">
            {{ candidate.origin
            }}<span v-if="candidate.entry !== null" class="text-soft"
              >, entry {{ candidate.entry + 1 }}</span
            >
          </td>
          <td v-if="priorities" class="py-1 pr-3">{{ candidate.priority ?? '' }}</td>
          <td class="py-1">{{ candidate.sentence }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
