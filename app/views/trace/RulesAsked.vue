<script setup lang="ts">
import type { RulesEvidence } from '@salt-trail/core'

/** The rules in the order they were asked, to the one that decided. */
type Level = RulesEvidence['levels'][number]
type AskedSet = Level['sets'][number]

defineProps<{ evidence: RulesEvidence }>()
const nameOf = (set: AskedSet): string =>
  set.set.includes('/') ? set.set.slice(set.set.indexOf('/') + 1) : 'estate rules'
const LEVELS: Record<Level['level'], string> = {
  estate: 'of the estate',
  local: 'the host’s own rules',
  interface: 'at the interface',
  subnet: 'at the subnet',
  boundary: 'at the subnet’s edge',
}
const ACTIONS = { allow: 'allows', deny: 'denies', defer: 'leaves it to lower levels' } as const

const ruleName = (rule: AskedSet['rules'][number]): string => `rule ${rule.order ?? rule.entry + 1}`
const outcome = (rule: AskedSet['rules'][number]): string =>
  rule.mismatch === null
    ? `matches: ${ACTIONS[rule.action]}`
    : `the ${rule.mismatch} does not match`
function setText(set: AskedSet): string {
  if (set.byState) return 'knows the flow and is not asked again'
  if (set.decidedBy !== null) return ''
  return `${set.rules.length === 0 ? 'has no rule for this direction' : 'no rule matches'}, so it ${set.passes ? 'passes' : 'denies'}`
}
</script>

<template>
  <section>
    <h2 class="mb-1.5 font-semibold">
      Rules on the way {{ evidence.direction }}, in the order they were asked
    </h2>
    <p v-if="evidence.levels.length === 0" class="text-soft">
      No rule set stands here at any level, so everything passes.
    </p>
    <table v-else class="w-full border-collapse">
      <tbody v-for="(level, index) in evidence.levels" :key="index">
        <template v-for="set in level.sets" :key="set.set">
          <tr class="border-b border-hair align-top">
            <th class="py-1 pr-3 pl-2.5 text-left font-medium" scope="row" colspan="2">
              {{ nameOf(set) }}
              <span class="text-xs font-normal text-soft"
                >{{ LEVELS[level.level] }}, {{ set.stateful ? 'stateful' : 'stateless' }}</span
              >
            </th>
            <td class="py-1">{{ setText(set) }}</td>
          </tr>
          <tr
            v-for="rule in set.rules"
            :key="rule.entry"
            class="border-b border-hair align-top"
            :class="rule.entry === set.decidedBy ? 'bg-wash' : ''"
          >
            <td class="w-24 py-1 pr-3 pl-6">{{ ruleName(rule) }}</td>
            <td class="mono py-1 pr-3">{{ rule.says }}</td>
            <td class="py-1">{{ outcome(rule) }}</td>
          </tr>
        </template>
      </tbody>
    </table>
  </section>
</template>
