<script setup lang="ts">
import { parseAddress, type HopRangeJson } from '@salt-trail/core'
import { fareText, prefixText } from '~/views/next-hops/range-words'
import { differingPieces, fareWithout, type Piece } from '~/views/next-hops/lay-under'
import { kindOfRange } from '~/views/next-hops/ruler'
import type { TableText } from '~/tables/table-text'

/**
 * The whole address space of a subnet by way out: the ruler, and under it every range with its
 * winner and what it shadows.
 */
const estate = useEstate()
const ask = useAsk()
const { subnet, answer: hops, failure } = useOfSubnet('hops')
const { subnet: under, answer: hopsUnder, failure: failureUnder } = useOfSubnet('hops', 'with')
useHead({ title: computed(() => `Next hops of ${subnet.value}`) })
const subnetChosen = textInAddress('subnet', 'push')
function chooseSubnet(id: string): void {
  subnetChosen.value = id
  hostsNumber.value = '1'
  rangeFrom.value = ''
}
// Which hosts, which family and which range are looked at stands in the address.
const hostsNumber = textInAddress('hosts', 'replace', '1')
const familyChosen = choiceInAddress('family', 'replace', ['4', '6'], '4')
const rangeFrom = textInAddress('range', 'replace')
const kindAt = computed({
  get: () => Math.max(0, Number(hostsNumber.value) - 1 || 0),
  set: (at: number) => {
    hostsNumber.value = String(at + 1)
    rangeFrom.value = ''
  },
})
const kind = computed(() => hops.value?.kinds[kindAt.value] ?? hops.value?.kinds[0] ?? null)
const families = computed(() =>
  ([4, 6] as const).filter((one) => kind.value?.ranges.some((range) => range.family === one)),
)
const family = computed({
  get: (): 4 | 6 => {
    const wanted = familyChosen.value === '6' ? 6 : 4
    return families.value.length === 0 || families.value.includes(wanted)
      ? wanted
      : families.value[0]!
  },
  set: (wanted: 4 | 6) => {
    familyChosen.value = wanted === 6 ? '6' : '4'
    rangeFrom.value = ''
  },
})
const ranges = computed(
  () => kind.value?.ranges.filter((range) => range.family === family.value) ?? [],
)
const chosen = computed(() => ranges.value.find((range) => range.from === rangeFrom.value) ?? null)

/** What is listed below: destinations by whose they are, or every range in order. */
const LISTED = [
  { value: 'by-owner', says: 'by destination' },
  { value: 'by-range', says: 'every range' },
] as const
const listed = choiceInAddress('list', 'replace', ['by-owner', 'by-range'], 'by-owner')
const destinations = computed(
  () => kind.value?.destinations.filter((one) => one.family === family.value) ?? [],
)
const ownNetwork = computed(
  () => estate.outline?.subnets.find(({ id }) => id === subnet.value)?.network ?? '',
)

const typed = ref('')
const refused = ref('')
const ruler = ref<{ fit: () => void } | null>(null)
/** An address typed in lands on the ruler. */
function land(): void {
  const address = parseAddress(typed.value.trim())
  refused.value = address === null && typed.value.trim() !== '' ? 'that is no address' : ''
  if (address === null) return
  const wanted = typeof address === 'number' ? 4 : 6
  const found = kind.value?.ranges
    .filter((range) => range.family === wanted && parseAddress(range.from)! <= address)
    .at(-1)
  if (found) choose(found)
}
function choose(range: HopRangeJson): void {
  familyChosen.value = range.family === 6 ? '6' : '4'
  rangeFrom.value = range.from
}
watch(
  chosen,
  (range) => {
    if (range === null) return
    void nextTick(() => {
      ruler.value?.fit()
      document.querySelector('[data-chosen]')?.scrollIntoView({ block: 'nearest' })
    })
  },
  { immediate: true },
)
const name = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
const hostsText = (hosts: readonly string[]): string =>
  hosts.length === 0
    ? 'addresses nobody has yet'
    : hosts.length > 2
      ? `${hosts.length} hosts, as ${name(hosts[0]!)}`
      : hosts.map(name).join(', ')
const from = computed(() =>
  kind.value && kind.value.hosts.length > 0
    ? `interface:${name(kind.value.hosts[0]!)}`
    : `subnet:${subnet.value}`,
)
/** The second subnet, laid under the first: its hosts of the first kind. */
const kindUnder = computed(() => hopsUnder.value?.kinds[0] ?? null)
const rangesUnder = computed(
  () => kindUnder.value?.ranges.filter((range) => range.family === family.value) ?? [],
)
const pieces = computed(() =>
  differingPieces(
    ranges.value,
    rangesUnder.value,
    fareWithout([`subnets/${subnet.value}`, ...(kind.value?.hosts ?? [])]),
    fareWithout([`subnets/${under.value}`, ...(kindUnder.value?.hosts ?? [])]),
  ),
)
const { revisions } = useRevisions()
const shownRevision = computed(() => estate.outline?.revision.number ?? 0)
/** The revision of the second one, if it is not the one on screen. */
const otherRevision = textInAddress('of', 'replace')
const second = textInAddress('with', 'replace')
function layUnder(named: string | undefined, of: string = otherRevision.value): void {
  second.value = named ?? ''
  otherRevision.value = named === undefined ? '' : of
  // The link names both, also where the first was chosen by none.
  subnetChosen.value = subnet.value
}
/** The revision before the one on screen, else any other. */
const revisionBefore = computed(
  () =>
    (
      revisions.value.find((one) => one.number < shownRevision.value) ??
      revisions.value.find((one) => one.number !== shownRevision.value)
    )?.number,
)
const nameUnder = computed(() =>
  otherRevision.value === '' ? under.value : `${under.value} in revision ${otherRevision.value}`,
)
/** A neighbour in the same network to begin with. */
const neighbour = computed(() => {
  const all = estate.outline?.subnets ?? []
  const own = all.find((one) => one.id === subnet.value)
  return (
    all.find((one) => one.network === own?.network && one.id !== subnet.value) ??
    all.find((one) => one.id !== subnet.value)
  )?.id
})
const table = (): TableText => ({
  columns: [
    'destinations',
    'way, or why they are lost',
    'winner',
    'origin',
    'target',
    'seen as',
    'shadowed',
  ],
  rows: (kind.value?.ranges ?? []).map((range) => [
    prefixText(range),
    fareText(range),
    range.winners.map((route) => route.to).join(' '),
    range.winners.map((route) => route.origin).join(' '),
    range.winners.map((route) => route.target).join(' '),
    range.cause ? '' : range.seenAs.join(' '),
    range.shadowed.map((route) => route.to).join(' '),
  ]),
})
const pieceText = ({ from: low, to: high }: Piece): string =>
  low === high ? low : `${low} – ${high}`
</script>

<template>
  <AppShell :keys="[]">
    <div v-if="estate.outline" class="flex h-full flex-col">
      <h1 class="sr-only">Next hops</h1>
      <div class="flex h-11 shrink-0 items-center gap-5 border-b border-rule px-4">
        <SubnetChooser :outline="estate.outline" :subnet="subnet" @choose="chooseSubnet" />
        <form class="ml-auto flex items-baseline gap-2 text-xs text-soft" @submit.prevent="land">
          <label
            >where is
            <input
              v-model="typed"
              class="mono w-44 border-b border-rule bg-ground px-1 py-0.5 text-ink"
              placeholder="an address"
              spellcheck="false"
            />
          </label>
          <span v-if="refused" role="alert" class="text-leak">{{ refused }}</span>
        </form>
      </div>
      <p v-if="failure" class="p-4 text-leak" role="alert">{{ failure }}</p>
      <p v-else-if="hops && hops.kinds.length === 0" class="p-4 text-soft">
        This subnet has no address anything could be sent from.
      </p>
      <template v-else-if="hops && kind">
        <div class="toolbar">
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
          <span class="ml-auto flex items-baseline gap-5 whitespace-nowrap">
            <button
              v-if="under === '' && neighbour"
              type="button"
              class="cursor-pointer border-b border-ink text-xs"
              @click="layUnder(neighbour)"
            >
              compare with another subnet
            </button>
            <button
              v-if="under === '' && revisionBefore !== undefined"
              type="button"
              class="cursor-pointer border-b border-ink text-xs"
              @click="layUnder(subnet, String(revisionBefore))"
            >
              compare with revision {{ revisionBefore }}
            </button>
            <button
              v-for="one in LISTED"
              :key="one.value"
              type="button"
              class="cursor-pointer text-xs"
              :class="one.value === listed ? 'font-semibold' : 'text-soft'"
              :aria-pressed="one.value === listed"
              @click="listed = one.value"
            >
              {{ one.says }}
            </button>
            <CopyTable :name="`next-hops-${subnet}`" :table="table" />
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
        <AddressRuler
          ref="ruler"
          :ranges="kind.ranges"
          :family="family"
          :chosen="chosen"
          :alongside="kindUnder?.ranges"
          @choose="choose"
        />
        <template v-if="under !== ''">
          <div class="toolbar mt-3 border-t border-rule">
            <SubnetChooser :outline="estate.outline" :subnet="under" @choose="layUnder($event)" />
            <label class="flex items-baseline gap-1.5 text-xs text-soft"
              >in
              <select
                class="border-b border-rule bg-ground py-0.5 text-ink"
                :value="otherRevision"
                @change="layUnder(under, ($event.target as HTMLSelectElement).value)"
              >
                <option value="">this revision</option>
                <option
                  v-for="one in revisions.filter(({ number }) => number !== shownRevision)"
                  :key="one.number"
                  :value="String(one.number)"
                >
                  revision {{ one.number }}
                </option>
              </select>
            </label>
            <button
              type="button"
              class="ml-auto cursor-pointer border-b border-ink text-xs"
              @click="layUnder(undefined)"
            >
              remove
            </button>
          </div>
          <p v-if="failureUnder" class="px-4 text-leak" role="alert">{{ failureUnder }}</p>
          <AddressRuler
            v-else-if="kindUnder"
            :ranges="kindUnder.ranges"
            :family="family"
            :chosen="null"
            :alongside="kind.ranges"
          />
        </template>
        <div
          class="mt-2 min-h-0 flex-1 overflow-y-auto border-t border-ink"
          tabindex="0"
          aria-label="Ranges"
        >
          <table v-if="under !== '' && kindUnder" class="w-full table-fixed border-collapse">
            <thead>
              <tr class="sticky top-0 bg-ground text-left text-xs text-soft">
                <th class="w-80 py-1.5 pl-4 font-medium">where they differ</th>
                <th class="py-1.5 font-medium">{{ subnet }}</th>
                <th class="py-1.5 pr-4 font-medium">{{ nameUnder }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="piece in pieces" :key="piece.from" class="border-t border-hair align-top">
                <td class="mono py-1 pr-3 pl-4">{{ pieceText(piece) }}</td>
                <td
                  v-for="side in [piece.a, piece.b]"
                  :key="side === piece.a ? 'a' : 'b'"
                  class="py-1 pr-4"
                  :class="side.cause ? 'text-soft' : ''"
                >
                  <span class="flex gap-2"
                    ><WayBadge :kind="kindOfRange(side)" /><span
                      >{{ fareText(side)
                      }}<span v-if="!side.cause && side.seenAs.length > 0" class="mono text-soft"
                        >, as {{ side.seenAs.join(', ') }}</span
                      ></span
                    ></span
                  >
                </td>
              </tr>
              <tr v-if="pieces.length === 0">
                <td colspan="3" class="px-4 py-3 text-soft">
                  {{
                    rangesUnder.length === 0
                      ? `${nameUnder} sends nothing over IPv${family}.`
                      : `Nowhere: over IPv${family} both go the same way to every address.`
                  }}
                </td>
              </tr>
            </tbody>
          </table>
          <DestinationRows
            v-else-if="listed === 'by-owner'"
            :destinations="destinations"
            :ranges="kind.ranges"
            :chosen="chosen"
            :own-network="ownNetwork"
            @choose="choose"
            @ask="ask({ from, to: $event })"
          />
          <RangeRows
            v-else
            :ranges="ranges"
            :chosen="chosen"
            @choose="choose"
            @ask="ask({ from, to: $event })"
          />
        </div>
      </template>
      <p v-else class="p-4 text-soft" role="status">computing the next hops …</p>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
