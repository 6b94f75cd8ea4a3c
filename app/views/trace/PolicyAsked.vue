<script setup lang="ts">
import type { PolicyVerdict } from '@salt-trail/core'

/** What a firewall's policy said: the rules in their order, to the one that decided. */
export interface PolicyEvidence {
  readonly sides: { readonly from: string; readonly to: string } | null
  readonly policy: PolicyVerdict
}
defineProps<{ evidence: PolicyEvidence; name: string }>()
</script>

<template>
  <section>
    <h2 class="mb-1.5 font-semibold">
      The policy of {{ name
      }}<template v-if="evidence.sides"
        >, from {{ evidence.sides.from }} to {{ evidence.sides.to }}</template
      >
    </h2>
    <table class="w-full border-collapse">
      <tbody>
        <tr
          v-for="rule in evidence.policy.asked"
          :key="rule.order"
          class="border-b border-hair align-top"
          :class="rule.mismatch === null ? 'bg-wash' : ''"
        >
          <td class="w-24 py-1 pr-3 pl-2.5">rule {{ rule.order }}</td>
          <td class="mono py-1 pr-3">{{ rule.says }}</td>
          <td class="py-1">
            {{
              rule.mismatch === null
                ? `matches: ${rule.action === 'allow' ? 'allows' : 'denies'}`
                : `the ${rule.mismatch} does not match`
            }}
          </td>
        </tr>
        <tr v-if="evidence.policy.order === null" class="border-b border-hair bg-wash">
          <td class="py-1 pr-3 pl-2.5">otherwise</td>
          <td />
          <td class="py-1">{{ evidence.policy.passes ? 'allows' : 'denies' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="evidence.policy.application" class="mt-2 text-xs text-soft">
      The rule asks for {{ evidence.policy.application }}; what is inside a connection is not
      checked here.
    </p>
  </section>
</template>
