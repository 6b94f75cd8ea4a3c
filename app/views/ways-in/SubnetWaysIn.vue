<script setup lang="ts">
import type { TableText } from '~/tables/table-text'
import { wayInTexts } from '~/views/ways-in/way-in-words'

/**
 * Who can reach the hosts of a subnet, on what, through what, after all levels of rules; the widest
 * first.
 */
const estate = useEstate()
const router = useRouter()
const { subnet, answer: found, failure } = useOfSubnet('ways-in')

const table = (): TableText => ({
  columns: ['from', 'to', 'addresses', 'on', 'through', 'rules that let it in'],
  rows: (found.value?.ways ?? []).map(wayInTexts),
})
</script>

<template>
  <div v-if="estate.outline" class="flex min-h-0 flex-1 flex-col">
    <div class="flex h-11 shrink-0 items-center gap-5 border-b border-rule px-4">
      <SubnetChooser
        :outline="estate.outline"
        :subnet="subnet"
        @choose="router.push({ query: { subnet: $event } })"
      />
      <CopyTable
        v-if="found && found.ways.length > 0"
        class="ml-auto"
        :name="`ways-into-${subnet}`"
        :table="table"
      />
    </div>
    <p v-if="failure" class="p-4 text-leak" role="alert">{{ failure }}</p>
    <p v-else-if="!found" class="p-4 text-soft" role="status">asking for every packet …</p>
    <div v-else class="min-h-0 flex-1 overflow-y-auto" tabindex="0" aria-label="Ways in">
      <p v-if="found.ways.length === 0 && found.leftOut.length === 0" class="p-4 text-soft">
        Nobody outside this network reaches a host in {{ subnet }}, with any packet.
      </p>
      <WaysInTable v-else-if="found.ways.length > 0">
        <WayInRow
          v-for="way in found.ways"
          :key="`${way.from} ${way.to}`"
          :way="way"
          :objects="[found.subnet, ...found.ruleSets]"
        />
      </WaysInTable>
      <p v-if="found.leftOut.length > 0" role="status" class="border-b border-hair px-4 py-2">
        <span class="font-semibold">Too many kinds of packets, left out in part:</span>
        {{
          found.leftOut
            .slice(0, 5)
            .map(({ from, to }) => `from ${from} to ${to}`)
            .join('; ')
        }}<template v-if="found.leftOut.length > 5">
          and {{ found.leftOut.length - 5 }} more</template
        >
      </p>
      <section v-if="found.jumps.some((jump) => jump.opens.length > 0)" class="p-4">
        <h2 class="mb-1 font-semibold">What these hosts open up behind them</h2>
        <p
          v-for="jump in found.jumps.filter((one) => one.opens.length > 0)"
          :key="jump.host"
          class="mb-1"
        >
          <ObjectName class="font-semibold" :of="jump.host" />, reached from
          <template v-for="(ref, at) in jump.from" :key="ref"
            >{{ at > 0 ? ', ' : '' }}<ObjectName v-if="ref.includes('/')" :of="ref" /><template
              v-else
              >the internet</template
            ></template
          >, reaches
          <template v-for="(ref, at) in jump.opens.slice(0, 12)" :key="ref"
            >{{ at > 0 ? ', ' : '' }}<ObjectName :of="ref" /></template
          >{{ jump.opens.length > 12 ? ` and ${jump.opens.length - 12} more` : '' }}.
        </p>
      </section>
      <section v-if="found.idle.length > 0" class="p-4">
        <h2 class="mb-1 font-semibold">
          <ExplainedTerm term="neverMatches">Rules that never match here</ExplainedTerm>
        </h2>
        <table class="w-full border-collapse">
          <thead class="sr-only">
            <tr>
              <th>rule set</th>
              <th>rule</th>
              <th>why</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(one, index) in found.idle"
              :key="index"
              class="border-t border-hair align-top"
            >
              <td class="w-44 py-1 pr-3"><ObjectName :of="one.set" /></td>
              <td class="w-[420px] py-1 pr-3">{{ one.rule }}</td>
              <td class="py-1 text-soft">{{ one.why }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
</template>
