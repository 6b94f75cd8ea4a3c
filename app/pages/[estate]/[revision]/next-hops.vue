<script setup lang="ts">
import { explainCause, parseAddress, type Cause, type HopRangeJson, type HopsJson } from '@salt-trail/core'
import { kindOfRange, placeOf } from '~/exits/ruler'

/** The whole address space of a subnet by way out: the ruler, and under it every range with its winner and what it shadows. */
const estate = useEstate()
const ask = useAsk()
const { subnet, answer: hops, failure } = useOfSubnet<HopsJson>('hops')
useHead({ title: computed(() => `Next hops of ${subnet.value}`) })
const kindAt = ref(0)
const family = ref<4 | 6>(4)
const kind = computed(() => hops.value?.kinds[kindAt.value] ?? hops.value?.kinds[0] ?? null)
const families = computed(() => ([4, 6] as const).filter((one) => kind.value?.ranges.some((range) => range.family === one)))
watch(families, (has) => {
  if (has.length > 0 && !has.includes(family.value)) family.value = has[0]!
})
watch(hops, () => (kindAt.value = 0))
const ranges = computed(() => kind.value?.ranges.filter((range) => range.family === family.value) ?? [])
const chosen = shallowRef<HopRangeJson | null>(null)
watch(ranges, () => (chosen.value = null))

const typed = ref('')
const refused = ref('')
const ruler = ref<{ fit: () => void } | null>(null)
/** An address typed in lands on the ruler. */
function land(): void {
  const address = parseAddress(typed.value.trim())
  refused.value = address === null && typed.value.trim() !== '' ? 'that is no address' : ''
  if (address === null) return
  family.value = typeof address === 'number' ? 4 : 6
  void nextTick(() => {
    const found = ranges.value.filter((range) => placeOf(range.from) <= placeOf(typed.value.trim()) && parseAddress(range.from)! <= address).at(-1)
    if (found) choose(found)
  })
}
function choose(range: HopRangeJson): void {
  chosen.value = range
  void nextTick(() => {
    ruler.value?.fit()
    document.getElementById(`range-${range.from}`)?.scrollIntoView({ block: 'nearest' })
  })
}
const name = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
const fareText = ({ cause, way }: HopRangeJson): string =>
  cause
    ? explainCause(cause as Pick<Cause, 'code' | 'object' | 'inner'>)
    : way.map((ref) => (ref === 'internet' ? 'the built-in door' : name(ref))).join(', then ') || 'handed over inside the network'
const hostsText = (hosts: readonly string[]): string =>
  hosts.length === 0 ? 'addresses nobody has yet' : hosts.length > 2 ? `${hosts.length} hosts, as ${name(hosts[0]!)}` : hosts.map(name).join(', ')
const from = computed(() => (kind.value && kind.value.hosts.length > 0 ? `interface:${name(kind.value.hosts[0]!)}` : `subnet:${subnet.value}`))
const prefixText = (range: HopRangeJson): string => (range.prefixes.length === 1 ? range.prefixes[0]! : `${range.from} – ${range.to}`)
</script>

<template>
  <AppShell :keys="[]">
    <div v-if="estate.outline" class="flex h-full flex-col">
      <h1 class="sr-only">Next hops</h1>
      <div class="flex h-11 shrink-0 items-center gap-5 border-b border-rule px-4">
        <SubnetChooser :outline="estate.outline" :subnet="subnet" @choose="navigateTo({ query: { subnet: $event } })" />
        <form class="ml-auto flex items-baseline gap-2 text-xs text-soft" @submit.prevent="land">
          <label
            >where is
            <input v-model="typed" class="mono w-44 border-b border-rule bg-ground px-1 py-0.5 text-ink" placeholder="an address" spellcheck="false" />
          </label>
          <span v-if="refused" role="alert" class="text-leak">{{ refused }}</span>
        </form>
      </div>
      <p v-if="failure" class="p-4 text-leak" role="alert">{{ failure }}</p>
      <p v-else-if="hops && hops.kinds.length === 0" class="p-4 text-soft">This subnet has no address anything could be sent from.</p>
      <template v-else-if="hops && kind">
        <div class="flex h-9 shrink-0 items-center gap-5 px-4 text-xs">
          <button
            v-for="(one, index) in hops.kinds"
            :key="index"
            type="button"
            class="cursor-pointer"
            :class="one === kind ? 'font-semibold' : 'text-soft'"
            :aria-pressed="one === kind"
            @click="kindAt = index"
          >
            {{ hostsText(one.hosts) }}{{ one.publicAddress ? ', with a public address' : '' }}
          </button>
          <span class="ml-auto flex gap-4">
            <button
              v-for="one in families"
              :key="one"
              type="button"
              class="cursor-pointer"
              :class="one === family ? 'font-semibold' : 'text-soft'"
              :aria-pressed="one === family"
              @click="family = one"
            >
              IPv{{ one }}
            </button>
          </span>
        </div>
        <AddressRuler ref="ruler" :ranges="kind.ranges" :family="family" :chosen="chosen" @choose="choose" />
        <div class="mt-2 min-h-0 flex-1 overflow-y-auto border-t border-ink" tabindex="0" aria-label="Ranges">
          <table class="w-full border-collapse">
            <thead>
              <tr class="sticky top-0 bg-ground text-left text-xs text-soft">
                <th class="py-1.5 pl-4 font-medium">destinations</th>
                <th class="w-8"><span class="sr-only">kind</span></th>
                <th class="py-1.5 font-medium">way, or why they are lost</th>
                <th class="py-1.5 font-medium">winner</th>
                <th class="py-1.5 font-medium">seen as</th>
                <th class="py-1.5 pr-4 font-medium">shadowed</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="range in ranges"
                :id="`range-${range.from}`"
                :key="range.from"
                class="cursor-pointer border-t border-hair align-top"
                :class="range === chosen ? 'bg-wash' : ''"
                @click="choose(range)"
                @dblclick="ask({ from, to: range.from })"
              >
                <td class="mono py-1 pr-3 pl-4">{{ prefixText(range) }}</td>
                <td class="py-1"><WayBadge :kind="kindOfRange(range)" /></td>
                <td class="py-1 pr-3" :class="range.cause ? 'text-soft' : ''">
                  {{ fareText(range) }}
                </td>
                <td class="py-1 pr-3">
                  <span v-for="(winner, index) in range.winners" :key="index" class="block"
                    ><span class="mono">{{ winner.to }}</span> <span class="text-xs text-soft">{{ winner.origin }}, {{ name(winner.target) }}</span></span
                  >
                  <span v-if="range.winners.length === 0" class="text-soft">none</span>
                </td>
                <td class="mono py-1 pr-3">{{ range.cause || range.way.length === 0 ? '' : range.seenAs.join(', ') || 'itself' }}</td>
                <td class="mono py-1 pr-4 text-soft">{{ range.shadowed.map((route) => route.to).join(', ') }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
      <p v-else class="p-4 text-soft" role="status">computing the next hops …</p>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
