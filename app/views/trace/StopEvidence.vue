<script setup lang="ts">
import {
  MAP_SECTIONS,
  type FactsEvidence,
  type LookUpEvidence,
  type RulesEvidence,
  type StationJson,
} from '@salt-trail/core'
import type { PolicyEvidence } from './PolicyAsked.vue'
import type { TransitEvidence } from './TransitTable.vue'
import type { Stop } from '~/views/trace/align'
import { nameOf } from '~/views/trace/stop-words'

/** The evidence of each station at a stop. */
const props = defineProps<{ stop: Stop }>()
const packets = computed(() => {
  const last = props.stop.stations.at(-1)!.packet
  const end = (address: string, port: number | null): string =>
    port === null ? address : `${address} port ${port}`
  return `${last.protocol} from ${end(last.src, last.srcPort)} to ${end(last.dst, last.dstPort)}`
})
const has = (station: StationJson): boolean => Object.keys(station.evidence).length > 0
/** The objects that the stop passes, each with a page of its own. */
const refs = computed(() => [
  ...new Set(
    props.stop.stations
      .map(({ at }) => at)
      .filter((ref) => MAP_SECTIONS.some((section) => ref.startsWith(`${section}/`))),
  ),
])
const plain = computed(() => props.stop.stations.filter((station) => !has(station)))
</script>

<template>
  <div class="space-y-4">
    <p v-if="refs.length > 0" class="flex flex-wrap gap-x-4 text-xs">
      <ObjectName v-for="ref in refs" :key="ref" class="mono" :of="ref" :says="ref" />
    </p>
    <template v-for="(station, index) in stop.stations" :key="index">
      <LookUpTable
        v-if="station.kind === 'lookup' && has(station)"
        :evidence="station.evidence as LookUpEvidence"
      />
      <RulesAsked
        v-else-if="station.kind === 'rules' && has(station)"
        :evidence="station.evidence as RulesEvidence"
      />
      <PolicyAsked
        v-else-if="(station.kind === 'firewall' || station.kind === 'inspect') && has(station)"
        :evidence="station.evidence as PolicyEvidence"
        :name="nameOf(station.at)"
      />
      <TransitTable
        v-else-if="station.kind === 'transit' && has(station)"
        :evidence="station.evidence as TransitEvidence"
        :name="nameOf(station.at)"
      />
      <NatChoice
        v-else-if="station.kind === 'nat' && has(station)"
        :evidence="station.evidence as never"
      />
      <FactsAsked
        v-else-if="'facts' in station.evidence"
        :evidence="station.evidence as unknown as FactsEvidence"
        :name="nameOf(station.at)"
        :decision="station.decision"
      />
    </template>
    <section v-if="plain.length > 0">
      <h2 class="mb-1 font-semibold">{{ stop.at }}</h2>
      <p v-for="(station, index) in plain" :key="index">{{ station.decision }}</p>
      <p v-if="plain.some(({ kind }) => kind === 'lookup')" class="text-xs text-soft">
        There are many branches; the routes that were compared are told for the first of them.
      </p>
    </section>
    <p class="text-xs text-soft">The packet after it: {{ packets }}</p>
  </div>
</template>
