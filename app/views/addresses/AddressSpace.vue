<script setup lang="ts">
import { parseAddress } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'
import type { TableText } from '~/tables/table-text'
import { freeText } from '~/views/addresses/free-words'

/**
 * What each network's ranges are carved into, what is free, and what else has the same addresses.
 */
const estate = useEstate()
const { answer, failure } = useAnswer<'space'>(() =>
  estate.fixedBase === null ? null : { base: estate.fixedBase, path: 'space' },
)
const networks = computed(() => answer.value?.networks ?? null)
const text = ref('')
/** More networks than this are not drawn at once: they are found by name. */
const MOST_NETWORKS = 60
const fitting = computed(() => {
  const wanted = text.value.trim().toLowerCase()
  return (networks.value ?? []).filter(
    (one) =>
      wanted === '' ||
      one.network.toLowerCase().includes(wanted) ||
      one.ranges.some(({ carved: own }) =>
        own.some(({ subnet }) => subnet.toLowerCase().includes(wanted)),
      ) ||
      one.ranges.some(({ prefix }) => prefix.includes(wanted)),
  )
})
const shown = computed(() => fitting.value.slice(0, MOST_NETWORKS))
const chosen = ref<string | null>(null)
const carved = computed(() =>
  (networks.value ?? []).flatMap(({ network, ranges }) =>
    ranges.flatMap((range) => range.carved.map((one) => ({ ...one, network }))),
  ),
)
const about = computed(() => carved.value.find(({ subnet }) => subnet === chosen.value) ?? null)
const MOST_FILLED = 12
const filled = computed(() =>
  carved.value
    .filter(({ usable, taken }) => usable.length < 10 && Number(usable) > 0 && taken > 0)
    .map(({ subnet, taken, usable }) => ({ subnet, taken, usable: Number(usable) }))
    .sort((a, b) => b.taken / b.usable - a.taken / a.usable)
    .slice(0, MOST_FILLED),
)

/** Networks whose ranges collide, each pair once. */
const collisions = computed(() => {
  const seen = new Set<string>()
  return (networks.value ?? []).flatMap(({ network, collisions: all }) =>
    all.flatMap((one) => {
      const key = [`networks/${network} ${one.prefix}`, `${one.other} ${one.with}`].sort().join(' ')
      if (seen.has(key)) return []
      seen.add(key)
      return [{ network, ...one }]
    }),
  )
})

const prefix = textInAddress('carve', 'replace')
const into = textInAddress('into', 'replace', '4')
/** The subnet that is chosen fills the calculator. */
function choose(
  subnet: string,
  within: readonly { readonly subnet: string; readonly prefix: string }[],
): void {
  chosen.value = subnet
  prefix.value = within.find((one) => one.subnet === subnet)?.prefix ?? prefix.value
}
const name = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
const percent = (share: number): string =>
  share > 0 && share < 0.01 ? 'under 1 %' : `${Math.round(share * 100)} %`
const isV4 = (range: string): boolean =>
  typeof parseAddress(range.slice(0, range.indexOf('/'))) === 'number'
const table = (): TableText => ({
  columns: ['network', 'range', 'prefix', 'subnet', 'taken', 'usable'],
  rows: (networks.value ?? []).flatMap(({ network, ranges }) =>
    ranges.flatMap((range) => [
      ...range.carved.map((one) => [
        network,
        range.prefix,
        one.prefix,
        one.subnet,
        isV4(one.prefix) ? String(one.taken) : '',
        one.usable,
      ]),
      ...range.free.map((free) => [network, range.prefix, free, '', '', '']),
    ]),
  ),
})
</script>

<template>
  <p v-if="failure" role="alert" class="p-4 text-leak">{{ failure }}</p>
  <p v-else-if="!networks" role="status" class="p-4 text-soft">laying out the address space …</p>
  <p v-else-if="networks.length === 0" class="p-4 text-soft">This estate has no networks yet.</p>
  <div v-else class="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_33%]">
    <div class="flex min-h-0 flex-col">
      <div
        class="flex h-10 shrink-0 items-center gap-5 border-b border-rule px-4 text-xs text-soft"
      >
        <label class="flex items-center gap-1.5"
          >with
          <input
            v-model="text"
            type="search"
            class="w-44 border-b border-rule bg-ground px-1 py-0.5 text-ink"
            placeholder="network, subnet or range"
          />
        </label>
        <span v-if="fitting.length > MOST_NETWORKS"
          >{{ MOST_NETWORKS }} of {{ fitting.length.toLocaleString('en-GB') }} networks</span
        >
        <CopyTable class="ml-auto" name="address-space" :table="table" />
      </div>
      <div class="min-h-0 flex-1 overflow-y-auto px-4 pb-6" tabindex="0" aria-label="Address space">
        <section v-for="network in shown" :key="network.network" class="pt-4">
          <h2 class="mb-1 text-base font-semibold">{{ network.network }}</h2>
          <div v-for="range in network.ranges" :key="range.prefix" class="mb-3">
            <p class="mb-1 flex items-baseline gap-3">
              <span class="mono">{{ range.prefix }}</span>
              <span class="text-xs text-soft">{{ percent(range.carvedShare) }} carved</span>
              <button
                type="button"
                class="ml-auto cursor-pointer border-b border-rule text-xs text-soft hover:text-ink"
                @click="prefix = range.free[0] ?? range.prefix"
              >
                carve
              </button>
            </p>
            <SpaceStrip
              :network="network.network"
              :range="range"
              :current="chosen"
              @choose="choose($event, range.carved)"
            />
            <SpaceTable
              :carved="range.carved"
              :current="chosen"
              @choose="choose($event, range.carved)"
            />
            <p class="mono mt-1 text-xs break-words text-soft">
              free: {{ range.free.length === 0 ? 'nothing' : range.free.slice(0, 10).join('  ') }}
              <template v-if="range.free.length + range.moreFree > 10"
                >and {{ range.free.length + range.moreFree - 10 }} more</template
              >
            </p>
          </div>
        </section>
        <p v-if="shown.length === 0" class="pt-4 text-soft">No network matches.</p>
      </div>
    </div>
    <div
      class="flex min-h-0 flex-col gap-6 overflow-y-auto border-l border-rule bg-paper p-4"
      tabindex="0"
      aria-label="What the space is used for"
    >
      <section v-if="about" aria-live="polite">
        <h2 class="font-semibold"><ObjectName :of="`subnets/${about.subnet}`" /></h2>
        <p>
          <span class="mono">{{ about.prefix }}</span> in {{ about.network
          }}<template v-if="isV4(about.prefix)"
            >: {{ about.taken.toLocaleString('en-GB') }}
            {{ about.taken === 1 ? 'address' : 'addresses' }} taken,
            {{ freeText(about) }} free</template
          >
        </p>
      </section>
      <CarveRange v-model:prefix="prefix" v-model:into="into" />
      <section v-if="collisions.length > 0">
        <h2 class="mb-1 flex items-center gap-1.5 font-semibold">
          <ProblemMark mark="weak" label="collision" />The same addresses twice
        </h2>
        <ul>
          <li
            v-for="one in collisions.slice(0, 40)"
            :key="`${one.network} ${one.prefix} ${one.other} ${one.with}`"
            class="border-t border-hair py-1"
          >
            {{ one.network }} <span class="mono">{{ one.prefix }}</span> and {{ name(one.other) }}
            <span class="mono">{{ one.with }}</span>
          </li>
        </ul>
        <p v-if="collisions.length > 40" class="text-xs text-soft">
          and {{ collisions.length - 40 }} more
        </p>
      </section>
      <p v-else class="text-soft">No two networks or sites have the same addresses.</p>
      <section v-if="filled.length > 0">
        <h2 class="mb-1 font-semibold">Addresses taken, of those usable</h2>
        <ClientOnly><FillChart :subnets="filled" /></ClientOnly>
      </section>
    </div>
  </div>
</template>
