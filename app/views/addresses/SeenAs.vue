<script setup lang="ts">
import { explainCause, type Cause } from '@salt-trail/core'
import { useClipboard } from '@vueuse/core'
import { LASTING } from '~/views/addresses/lasting-words'
import { useAnswer } from '~/api/useAnswer'
import { saveText } from '~/tables/save'
import type { TableText } from '~/tables/table-text'

/** The addresses by which an observer outside sees the subnets: the list that a partner is sent. */
const props = defineProps<{ to: string }>()
const emit = defineEmits<{ choose: [to: string] }>()
const estate = useEstate()
const { answer: found, failure } = useAnswer<'seen-as'>(() =>
  estate.fixedBase === null
    ? null
    : { base: estate.fixedBase, path: 'seen-as', query: { to: props.to } },
)
const parties = computed(() =>
  (estate.outline?.ends ?? []).filter(({ end }) => end.startsWith('party:')),
)
const known = computed(
  () => props.to === 'internet' || parties.value.some(({ end }) => end === props.to),
)
const typed = ref(known.value ? '' : props.to)
const who = computed(() =>
  props.to === 'internet' ? 'the internet' : props.to.replace(/^party:/, ''),
)

const name = (ref: string | null): string => (ref === null ? '' : ref.slice(ref.indexOf('/') + 1))
const addressText = (address: string | null): string => address ?? 'any address'
const asPrefix = (address: string): string =>
  address.includes('/') ? address : `${address}/${address.includes(':') ? 128 : 32}`
/** What a partner has to let in: every address that new flows may come from. */
const list = computed(() =>
  [
    ...new Set(
      (found.value?.addresses ?? []).flatMap(({ address, lasting }) =>
        address === null || lasting === 'draining' ? [] : [asPrefix(address)],
      ),
    ),
  ].join('\n'),
)
const { copy, copied } = useClipboard({ legacy: true })
const hasList = computed(() => found.value?.allowlist != null)
const table = (): TableText => ({
  columns: ['address', 'by', 'lasts', 'on the allowlist', 'subnets'],
  rows: (found.value?.addresses ?? []).map((one) => [
    addressText(one.address),
    one.by ?? '',
    LASTING[one.lasting].word,
    one.allowed === null ? '' : one.allowed ? 'yes' : 'no',
    one.subnets.join(' '),
  ]),
})
const SUBNETS_SHOWN = 8
const MOST_LOST = 50
const isAllLost = ref(false)
const HOSTS_SHOWN = 3
const hostsText = (hosts: readonly string[]): string =>
  hosts.slice(0, HOSTS_SHOWN).join(', ') +
  (hosts.length > HOSTS_SHOWN ? ` and ${hosts.length - HOSTS_SHOWN} more` : '')
const lossText = (cause: { code: string; object: string } | null): string =>
  cause ? explainCause(cause as Pick<Cause, 'code' | 'object' | 'inner'>) : ''
</script>

<template>
  <div class="flex h-full min-h-0 flex-col">
    <div class="flex h-10 shrink-0 items-center gap-5 border-b border-rule px-4 text-xs text-soft">
      <label class="flex items-center gap-1.5"
        >seen by
        <select
          class="border-b border-rule bg-ground py-0.5 text-ink"
          :value="known ? to : ''"
          @change="
            emit('choose', ($event.target as HTMLSelectElement).value || typed || 'internet')
          "
        >
          <option value="internet">the internet</option>
          <option v-for="party in parties" :key="party.end" :value="party.end">
            {{ party.id }}
          </option>
          <option v-if="!known" value="">{{ to }}</option>
        </select>
      </label>
      <form
        class="flex items-center gap-1.5"
        @submit.prevent="typed.trim() && emit('choose', typed.trim())"
      >
        <label class="flex items-center gap-1.5"
          >or by
          <input
            v-model="typed"
            class="mono w-44 border-b border-rule bg-ground px-1 py-0.5 text-ink"
            placeholder="an address or a prefix"
            spellcheck="false"
          />
        </label>
      </form>
      <span v-if="found && list" class="ml-auto flex items-center gap-4">
        <button
          type="button"
          class="cursor-pointer border-b border-ink text-ink"
          @click="copy(list)"
        >
          {{ copied ? 'copied' : 'copy the list' }}
        </button>
        <button
          type="button"
          class="cursor-pointer border-b border-ink text-ink"
          @click="saveText(`${who}-sees.txt`.replace(/[^\w.-]+/g, '-'), `${list}\n`)"
        >
          save the list
        </button>
        <CopyTable :name="`seen-by-${who}`.replace(/[^\w.-]+/g, '-')" :table="table" />
      </span>
    </div>
    <p v-if="failure" role="alert" class="p-4 text-leak">{{ failure }}</p>
    <p v-else-if="!found" role="status" class="p-4 text-soft">asking for every subnet …</p>
    <div
      v-else
      class="min-h-0 flex-1 overflow-y-auto"
      tabindex="0"
      aria-label="Addresses that are seen"
    >
      <p v-if="found.addresses.length === 0" class="p-4 text-soft">
        Nothing of this estate arrives at {{ who }}.
      </p>
      <table v-else class="w-full table-fixed border-collapse">
        <thead>
          <tr class="border-b border-ink text-left text-xs text-soft">
            <th class="w-56 py-1.5 pl-4 font-medium">address</th>
            <th class="w-52 py-1.5 font-medium">by</th>
            <th class="w-40 py-1.5 font-medium">
              <ExplainedTerm term="lasts">lasts</ExplainedTerm>
            </th>
            <th v-if="hasList" class="w-36 py-1.5 font-medium">
              <ExplainedTerm term="allowlist">on its list</ExplainedTerm>
            </th>
            <th class="py-1.5 pr-4 font-medium">subnets seen so</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(one, index) in found.addresses"
            :key="index"
            class="border-b border-hair align-top"
          >
            <td class="mono py-1.5 pr-3 pl-4">{{ addressText(one.address) }}</td>
            <td class="py-1.5 pr-3">{{ one.by ? name(one.by) : 'the host itself' }}</td>
            <td class="py-1.5 pr-3" :title="LASTING[one.lasting].means">
              <span class="flex items-center gap-1.5"
                ><ProblemMark v-if="!LASTING[one.lasting].lasts" mark="weak" />{{
                  LASTING[one.lasting].word
                }}</span
              >
            </td>
            <td v-if="hasList" class="py-1.5 pr-3">
              <span class="flex items-center gap-1.5"
                ><ProblemMark v-if="!one.allowed" mark="hole" label="not on it" />{{
                  one.allowed ? 'yes' : 'no'
                }}</span
              >
            </td>
            <td class="py-1.5 pr-4">
              <template v-for="(id, at) in one.subnets.slice(0, SUBNETS_SHOWN)" :key="id"
                >{{ at === 0 ? '' : ', ' }}<ObjectName :of="`subnets/${id}`" /></template
              ><span v-if="one.subnets.length > SUBNETS_SHOWN" class="text-soft">
                and {{ (one.subnets.length - SUBNETS_SHOWN).toLocaleString('en-GB') }} more</span
              >
            </td>
          </tr>
        </tbody>
      </table>
      <section v-if="found.unused.length > 0" class="px-4 pt-5">
        <h2 class="mb-1 font-semibold">On its list, and nothing of ours comes from there</h2>
        <p class="mono">{{ found.unused.join('  ') }}</p>
      </section>
      <section v-if="found.lost.length > 0" class="px-4 py-5">
        <h2 class="mb-1 font-semibold">Subnets from which nothing arrives</h2>
        <ul>
          <li
            v-for="one in isAllLost ? found.lost : found.lost.slice(0, MOST_LOST)"
            :key="`${one.subnet} ${one.family} ${one.hosts}`"
            class="flex gap-3 border-t border-hair py-1"
          >
            <ObjectName class="w-56 shrink-0" :of="`subnets/${one.subnet}`" />
            <span class="w-10 shrink-0 text-xs text-soft">IPv{{ one.family }}</span>
            <span v-if="one.hosts" class="shrink-0">{{ hostsText(one.hosts) }}</span>
            <span class="text-soft">{{ lossText(one.cause) }}</span>
          </li>
        </ul>
        <button
          v-if="found.lost.length > MOST_LOST && !isAllLost"
          type="button"
          class="cursor-pointer pt-1 text-xs underline"
          @click="isAllLost = true"
        >
          {{ (found.lost.length - MOST_LOST).toLocaleString('en-GB') }} more
        </button>
      </section>
    </div>
  </div>
</template>
