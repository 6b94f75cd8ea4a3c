<script setup lang="ts">
import type { Destination, HopRangeJson, RouteJson } from '@salt-trail/core'
import { seenText } from '~/views/next-hops/range-words'
import { kindOfRange } from '~/views/next-hops/ruler'

/**
 * Destinations by whose they are: the internet, each service, site, party and network, with what
 * becomes of packets there; what nobody has is one row that opens.
 */
const props = defineProps<{
  destinations: readonly Destination[]
  /** All ranges of the kind of host, which the destinations name by their places. */
  ranges: readonly HopRangeJson[]
  chosen: HopRangeJson | null
  /** The network of the subnet, by id. */
  ownNetwork: string
}>()
const emit = defineEmits<{ choose: [range: HopRangeJson]; ask: [to: string] }>()

const NOBODYS = ['private', 'reserved']
const isNobodys = ({ owner }: Destination): boolean => NOBODYS.includes(owner)
const meant = computed(() => props.destinations.filter((one) => !isNobodys(one)))
const nobodys = computed(() => props.destinations.filter(isNobodys))
const isOpened = ref(false)
const isChosen = ({ places }: Destination): boolean =>
  props.chosen !== null && places.some((place) => props.ranges[place] === props.chosen)
// Without something that is meant at the chosen range, what nobody has is in sight.
const isOpen = computed(
  () => isOpened.value || (nobodys.value.some(isChosen) && !meant.value.some(isChosen)),
)
const rows = computed(() => [...meant.value, ...(isOpen.value ? nobodys.value : [])])

const rangeOf = ({ places }: Destination): HopRangeJson => props.ranges[places[0]!]!
/** The routes that win there, each once. */
function winners({ places }: Destination): RouteJson[] {
  const all = places.flatMap((place) => props.ranges[place]!.winners)
  return [...new Map(all.map((one) => [`${one.to} ${one.origin} ${one.target}`, one])).values()]
}
const FEW = 3
const isNamed = ({ owner }: Destination): boolean => owner.includes('/')
const KINDS: Readonly<Record<string, string>> = {
  networks: 'network',
  services: 'service',
  sites: 'site',
  parties: 'partner',
  plannedRanges: 'planned',
}
const kindText = ({ owner }: Destination): string =>
  owner === `networks/${props.ownNetwork}`
    ? 'its own network'
    : (KINDS[owner.slice(0, owner.indexOf('/'))] ?? '')
/** The first address of a row, which a trace can ask for. */
const firstOf = ({ ranges }: Destination): string => /^[^/-]+/.exec(ranges[0]!)![0]
</script>

<template>
  <table class="w-full table-fixed border-collapse">
    <thead>
      <tr class="sticky top-0 bg-ground text-left text-xs text-soft">
        <th class="w-[30%] py-1.5 pl-4 font-medium">destinations</th>
        <th class="w-8"><span class="sr-only">kind</span></th>
        <th class="py-1.5 font-medium">way, or why they are lost</th>
        <th class="w-[23%] py-1.5 font-medium">
          <ExplainedTerm term="winner">winner</ExplainedTerm>
        </th>
        <th class="w-[13%] py-1.5 pr-4 font-medium">
          <ExplainedTerm term="seenAs">seen as</ExplainedTerm>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="(one, at) in rows"
        :key="at"
        :data-chosen="isChosen(one) || undefined"
        class="cursor-pointer border-t border-hair align-top"
        :class="isChosen(one) ? 'bg-wash' : ''"
        @click="emit('choose', rangeOf(one))"
        @dblclick="emit('ask', firstOf(one))"
      >
        <td class="py-1 pr-3 pl-4">
          <span class="block truncate"
            ><ObjectName v-if="isNamed(one)" :of="one.owner" :says="one.said" @click.stop /><span
              v-else
              class="first-letter:uppercase"
              >{{ one.said }}</span
            ><span v-if="kindText(one)" class="text-xs text-soft">, {{ kindText(one) }}</span></span
          >
          <span
            v-if="one.owner === 'internet' && one.ranges.length > FEW"
            class="text-xs text-soft"
            :title="one.ranges.join(' ')"
            >in {{ one.ranges.length }} ranges</span
          >
          <span v-else class="mono block text-xs text-soft" :title="one.ranges.join(' ')"
            >{{ one.ranges.slice(0, FEW).join(' ')
            }}<span v-if="one.ranges.length > FEW" class="font-sans">
              and {{ one.ranges.length - FEW }} more</span
            ></span
          >
        </td>
        <td class="py-1"><WayBadge :kind="kindOfRange(rangeOf(one))" /></td>
        <td class="py-1 pr-3" :class="rangeOf(one).cause ? 'text-soft' : ''">
          <RangeOutcome :range="rangeOf(one)" />
        </td>
        <td class="py-1 pr-3">
          <RouteName
            v-for="(route, index) in winners(one).slice(0, FEW)"
            :key="index"
            :route="route"
          />
          <span v-if="winners(one).length > FEW" class="text-xs text-soft"
            >and {{ winners(one).length - FEW }} more</span
          >
          <span v-if="winners(one).length === 0" class="text-soft">none</span>
        </td>
        <td class="mono py-1 pr-4">{{ seenText(rangeOf(one)) }}</td>
      </tr>
      <tr v-if="nobodys.length > 0" class="border-t border-rule">
        <td colspan="5" class="py-1.5 pl-4">
          <button
            type="button"
            class="cursor-pointer underline"
            :aria-expanded="isOpen"
            @click="isOpened = !isOpen"
          >
            Space nobody has
          </button>
          <span class="text-xs text-soft">
            private or reserved, in nothing of the estate:
            {{ nobodys.length }} {{ nobodys.length === 1 ? 'outcome' : 'outcomes' }}</span
          >
        </td>
      </tr>
    </tbody>
  </table>
</template>
