<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import type { TableText } from '~/tables/table-text'

/** The expectations of the estate, each with its state and, if broken, the packet that shows it. */
const estate = useEstate()
const ask = useAsk()
useHead({ title: computed(() => `Expectations, ${estate.outline?.name ?? 'Salt Trail'}`) })
const results = computed(() => estate.expectations ?? [])
const ORDER = { broken: 0, empty: 1, holds: 2 } as const
const sorted = computed(() => [...results.value].sort((a, b) => ORDER[a.state] - ORDER[b.state]))
/** The objects that the sentence of a broken one may name. */
const namedIn = ({ from, to }: (typeof results.value)[number]): string[] =>
  [from, to].filter((one) => one !== null)
const route = useRoute()
/** Another view begins one by what stands in the address. */
const writing = ref(route.query.write !== undefined)
onKeyStroke('n', (event) => {
  if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return
  event.preventDefault()
  writing.value = true
})
const table = (): TableText => ({
  columns: ['state', 'expectation', 'says', 'must', 'because', 'packet'],
  rows: sorted.value.map((one) => [
    one.state,
    one.id,
    one.says,
    one.must,
    one.sentence,
    one.packet
      ? `${one.packet.src} > ${one.packet.dst} ${one.packet.protocol} ${one.packet.dstPort ?? ''}`.trim()
      : '',
  ]),
})
const KEYS = [{ keys: 'n', does: 'new expectation' }]
const count = (state: string): number => results.value.filter((one) => one.state === state).length
</script>

<template>
  <AppShell :keys="KEYS">
    <div
      v-if="estate.outline && estate.expectations"
      class="h-full overflow-y-auto"
      tabindex="0"
      aria-label="List of expectations"
    >
      <h1 class="sr-only">Expectations of {{ estate.outline.name }}</h1>
      <p class="toolbar border-b border-rule text-soft">
        <template v-if="results.length > 0">
          <span>{{ count('broken') }} broken</span><span>{{ count('empty') }} empty</span
          ><span>{{ count('holds') }} hold</span>
        </template>
        <span>proved over all packets</span>
        <CopyTable v-if="results.length > 0" class="ml-auto" name="expectations" :table="table" />
        <button
          v-if="!writing"
          type="button"
          class="cursor-pointer border-b border-ink text-ink"
          @click="writing = true"
        >
          write one
        </button>
      </p>
      <WriteExpectation v-if="writing" @close="writing = false" @kept="writing = false" />
      <p v-if="results.length === 0" class="max-w-xl p-4 text-soft">
        This estate expects nothing of itself yet. Write down what must never happen, and what must
        always work: each promise is proved over all packets, with every revision.
      </p>
      <template v-else>
        <table class="w-full border-collapse">
          <thead>
            <tr class="border-b border-ink text-left text-xs text-soft">
              <th class="w-24 py-1.5 pl-4 font-medium">state</th>
              <th class="w-72 py-1.5 font-medium">expectation</th>
              <th class="w-28 py-1.5 font-medium">must</th>
              <th class="py-1.5 pr-4 font-medium">because</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in sorted" :key="one.id" class="border-b border-hair align-top">
              <td class="py-2 pl-4">
                <span class="flex items-center gap-1.5"
                  ><ProblemMark v-if="one.state === 'broken'" mark="leak" /><ProblemMark
                    v-else-if="one.state === 'empty'"
                    mark="weak"
                  />{{ one.state }}</span
                >
              </td>
              <td class="py-2 pr-3">
                <b class="font-semibold">{{ one.id }}</b>
                <span class="block text-xs text-soft">{{ one.says }}</span>
              </td>
              <td class="py-2 pr-3">
                <ExplainedTerm :term="`must ${one.must}`">{{ one.must }}</ExplainedTerm>
              </td>
              <td class="py-2 pr-4">
                <NamedText :text="one.sentence" :objects="namedIn(one)" />
                <div v-if="one.packet" class="mt-1 flex flex-wrap items-baseline gap-x-3">
                  <span class="mono"
                    >{{ one.packet.src }} &gt; {{ one.packet.dst }} {{ one.packet.protocol }}
                    {{ one.packet.dstPort ?? '' }}</span
                  >
                  <button
                    type="button"
                    class="cursor-pointer border-b border-ink"
                    @click="
                      ask({
                        from: one.from?.startsWith('interfaces/')
                          ? `interface:${one.from.slice(11)}`
                          : one.packet.src,
                        to: one.packet.dst,
                        protocol: one.packet.protocol,
                        port: one.packet.dstPort,
                      })
                    "
                  >
                    show its trace
                  </button>
                  <NamedText
                    v-if="one.because"
                    class="text-xs text-soft"
                    :text="one.because"
                    :objects="namedIn(one)"
                  />
                </div>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
