<script setup lang="ts">
import type { TableText } from '~/tables/table-text'
import { usePortNames } from '~/questions/port-names'
import { answeredText, openingTexts, openToText, portsAbout } from '~/views/ways-in/exposure-words'
import { useExposure, type ListedOpening } from '~/views/ways-in/useExposure'

/** What the whole estate exposes: who from outside reaches what, on which ports. */
const ask = useAsk()
const sort = choiceInAddress('by', 'push', ['port', 'subnet', 'address'], 'port')
const find = textInAddress('find', 'replace')
const names = usePortNames()
const { answer, failure, openings, more, all } = useExposure(
  () => sort.value,
  () => find.value,
)
const opened = ref<string | null>(null)
const keyOf = (one: ListedOpening): string =>
  [one.from, one.to, one.address, one.group, one.ports?.from, one.ways.join()].join(' ')
/** Each opening, with the title of its group where that begins. */
const rows = computed(() =>
  openings.value.map((one, at, list) => ({
    one,
    key: `${keyOf(one)} ${at}`,
    begins: list[at - 1]?.group !== one.group,
  })),
)
const idOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
async function table(): Promise<TableText> {
  return {
    columns: ['on', 'open to', 'host', 'subnet', 'network', 'address', 'through', 'answers'],
    rows: (await all()).map(openingTexts),
  }
}
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <div class="toolbar border-b border-rule text-soft">
      <label class="flex items-center gap-1.5"
        >by
        <select
          v-model="sort"
          aria-label="Sorted by"
          class="border-b border-rule bg-ground py-0.5 text-ink"
        >
          <option value="port">port</option>
          <option value="subnet">subnet</option>
          <option value="address">address</option>
        </select>
      </label>
      <label class="flex items-center gap-1.5"
        >find
        <input
          v-model="find"
          class="mono h-7 w-56 border-b border-rule bg-ground text-ink"
          placeholder="22, ssh, a host, a range"
          spellcheck="false"
        />
      </label>
      <span v-if="answer" role="status">
        {{ answer.total.toLocaleString('en-GB') }}
        {{ answer.total === 1 ? 'way' : 'ways' }} in<template v-if="answer.looked < answer.hosts"
          >, {{ answer.looked.toLocaleString('en-GB') }} of
          {{ answer.hosts.toLocaleString('en-GB') }} hosts looked at</template
        ><template v-if="answer.cut > 0"
          >; {{ answer.cut }} hosts have too many kinds of packets, and were not looked through
        </template>
      </span>
      <CopyTable
        v-if="answer && answer.total > 0"
        class="ml-auto"
        name="reached-from-outside"
        :table="table"
      />
    </div>
    <p v-if="failure" class="p-4 text-leak" role="alert">{{ failure }}</p>
    <p v-else-if="!answer" class="p-4 text-soft" role="status">asking for every packet …</p>
    <p v-else-if="answer.total === 0 && answer.isDone" class="p-4 text-soft">
      {{
        find
          ? `Nothing that is reached from outside has "${find}".`
          : 'Nothing here can be reached from outside, with any packet.'
      }}
    </p>
    <div
      v-else
      class="min-h-0 flex-1 overflow-y-auto"
      tabindex="0"
      role="region"
      aria-label="What is reached from outside"
    >
      <table class="w-full border-collapse">
        <thead>
          <tr class="border-b border-ink text-left text-xs text-soft">
            <th class="w-[24%] py-1.5 pl-4 font-medium">open to</th>
            <th class="w-[26%] py-1.5 font-medium">host</th>
            <th class="w-[15%] py-1.5 font-medium">at</th>
            <th v-if="sort !== 'port'" class="py-1.5 font-medium">on</th>
            <th class="py-1.5 font-medium">through</th>
            <th class="py-1.5 pr-4 font-medium"><span class="sr-only">what to do</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="{ one, key, begins } in rows" :key="key">
            <tr v-if="begins">
              <th colspan="6" class="pt-3 pb-1 pl-4 text-left font-normal">
                <span class="flex items-center gap-2">
                  <ProblemMark
                    v-if="sort === 'port' && one.kind !== 'other'"
                    mark="leak"
                    :size="13"
                    label="of note"
                  />
                  <span class="mono font-semibold">{{ one.group }}</span>
                  <span v-if="sort === 'port'" class="text-soft">{{ portsAbout(one, names) }}</span>
                  <span v-else-if="sort === 'subnet'" class="text-soft">{{ one.network }}</span>
                </span>
              </th>
            </tr>
            <tr class="border-b border-hair align-top">
              <td class="py-1 pr-3 pl-4">{{ openToText(one) }}</td>
              <td class="py-1 pr-3">
                <ObjectName :of="one.to" />
                <span class="ml-2 text-soft">{{ one.subnet }}</span>
              </td>
              <td class="mono py-1 pr-3">{{ one.address }}</td>
              <td v-if="sort !== 'port'" class="mono py-1 pr-3">{{ one.on }}</td>
              <td class="py-1 pr-3">
                <WayNames
                  v-for="(way, at) in one.ways"
                  :key="at"
                  class="block"
                  :way="way"
                  none="local"
                />
                <span v-if="one.answered !== 'all'" class="block text-soft">{{
                  answeredText(one.answered)
                }}</span>
              </td>
              <td class="py-1 pr-4 text-right whitespace-nowrap">
                <button
                  type="button"
                  class="cursor-pointer underline"
                  :aria-expanded="opened === key"
                  @click="opened = opened === key ? null : key"
                >
                  behind it
                </button>
                <button
                  type="button"
                  class="ml-3 cursor-pointer underline"
                  @click="
                    ask({
                      from: one.packet.src,
                      to: one.packet.dst,
                      protocol: one.packet.protocol,
                      port: one.packet.dstPort,
                    })
                  "
                >
                  trace
                </button>
              </td>
            </tr>
            <tr v-if="opened === key">
              <td colspan="6" class="border-b border-hair pl-8">
                <HostBehind :host="idOf(one.to)" />
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <button
        v-if="answer.total > openings.length"
        type="button"
        class="action m-4"
        @click="more()"
      >
        {{ (answer.total - openings.length).toLocaleString('en-GB') }} more
      </button>
    </div>
  </div>
</template>
