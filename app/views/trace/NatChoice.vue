<script setup lang="ts">
/** Which rule of a NAT chose which address. */
interface NatEvidence {
  readonly nat: string
  readonly kind: string
  readonly rules: readonly {
    order: number
    matched: boolean
    decided: boolean
    use: readonly string[]
  }[]
  readonly pool: readonly string[]
  readonly draining: readonly string[]
  readonly chosen: readonly string[]
  readonly allocation: string
}
defineProps<{ evidence: NatEvidence }>()
</script>

<template>
  <section>
    <h2 class="mb-1.5 font-semibold">
      Which address {{ evidence.nat.slice('nats/'.length) }} chose
    </h2>
    <table class="w-full border-collapse">
      <tbody>
        <tr
          v-for="rule in evidence.rules"
          :key="rule.order"
          class="border-b border-hair"
          :class="rule.decided ? 'bg-wash' : ''"
        >
          <td class="py-1 pr-3 pl-2.5">rule {{ rule.order }}</td>
          <td class="mono py-1 pr-3">{{ rule.use.join(', ') }}</td>
          <td class="py-1">
            {{
              rule.decided
                ? 'the first whose destinations hold this one'
                : rule.matched
                  ? 'matches too, but comes later'
                  : 'does not match the destination'
            }}
          </td>
        </tr>
        <tr
          class="border-b border-hair"
          :class="evidence.rules.some((rule) => rule.decided) ? '' : 'bg-wash'"
        >
          <td class="py-1 pr-3 pl-2.5">its pool</td>
          <td class="mono py-1 pr-3">{{ evidence.pool.join(', ') }}</td>
          <td class="py-1">
            {{
              evidence.rules.some((rule) => rule.decided)
                ? 'for every other destination'
                : 'no rule holds this destination'
            }}
          </td>
        </tr>
        <tr v-if="evidence.draining.length > 0" class="border-b border-hair">
          <td class="py-1 pr-3 pl-2.5">draining</td>
          <td class="mono py-1 pr-3">{{ evidence.draining.join(', ') }}</td>
          <td class="py-1">take no new flows</td>
        </tr>
      </tbody>
    </table>
    <p v-if="evidence.allocation === 'automatic'" class="mt-2 text-xs text-soft">
      Its addresses are allocated automatically and may change by themselves.
    </p>
  </section>
</template>
