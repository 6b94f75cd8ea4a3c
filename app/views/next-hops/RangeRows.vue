<script setup lang="ts">
import type { HopRangeJson } from '@salt-trail/core'
import { prefixText, seenText } from '~/views/next-hops/range-words'
import { kindOfRange } from '~/views/next-hops/ruler'

/** Every range of destinations in the order of addresses, with its winner and what it shadows. */
defineProps<{ ranges: readonly HopRangeJson[]; chosen: HopRangeJson | null }>()
const emit = defineEmits<{ choose: [range: HopRangeJson]; ask: [to: string] }>()
</script>

<template>
  <table class="w-full border-collapse">
    <thead>
      <tr class="sticky top-0 bg-ground text-left text-xs text-soft">
        <th class="py-1.5 pl-4 font-medium">destinations</th>
        <th class="w-8"><span class="sr-only">kind</span></th>
        <th class="py-1.5 font-medium">way, or why they are lost</th>
        <th class="py-1.5 font-medium">
          <ExplainedTerm term="winner">winner</ExplainedTerm>
        </th>
        <th class="py-1.5 font-medium">
          <ExplainedTerm term="seenAs">seen as</ExplainedTerm>
        </th>
        <th class="py-1.5 pr-4 font-medium">
          <ExplainedTerm term="shadowed">shadowed</ExplainedTerm>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="range in ranges"
        :key="range.from"
        :data-chosen="range === chosen || undefined"
        class="cursor-pointer border-t border-hair align-top"
        :class="range === chosen ? 'bg-wash' : ''"
        @click="emit('choose', range)"
        @dblclick="emit('ask', range.from)"
      >
        <td class="mono py-1 pr-3 pl-4">{{ prefixText(range) }}</td>
        <td class="py-1"><WayBadge :kind="kindOfRange(range)" /></td>
        <td class="py-1 pr-3" :class="range.cause ? 'text-soft' : ''">
          <RangeOutcome :range="range" />
        </td>
        <td class="py-1 pr-3">
          <RouteName v-for="(one, at) in range.winners" :key="at" :route="one" />
          <span v-if="range.winners.length === 0" class="text-soft">none</span>
        </td>
        <td class="mono py-1 pr-3">{{ seenText(range) }}</td>
        <td class="mono py-1 pr-4 text-soft">
          {{ range.shadowed.map((route) => route.to).join(', ') }}
        </td>
      </tr>
    </tbody>
  </table>
</template>
