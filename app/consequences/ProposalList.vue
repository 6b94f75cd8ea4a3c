<script setup lang="ts">
import type { Operation, ToldPackets, ToldProposal } from '@salt-trail/core'
import { changeLine } from '~/consequences/change-line'

/**
 * What would mend a finding or a faulty question: changes that were tried against the whole estate,
 * with what each opens, cuts and brings. A harmful one says what it costs.
 */
const props = defineProps<{
  proposals: readonly ToldProposal[] | null
  failure: string
  /** How many findings a root cause has that they are for as a whole. */
  of?: number
  /** Whether time was over before all changes were tried. */
  isCut?: boolean
}>()
const open = ref<number | null>(null)
const { tryChange, failure: refused } = useTry()
/** What was chosen for the blanks of each proposal, by their paths. */
const chosen = reactive(new Map<string, string>())
const keyOf = (index: number, path: string): string => `${index} ${path}`
const isFilled = ({ blanks }: ToldProposal, index: number): boolean =>
  blanks.every(({ path }) => (chosen.get(keyOf(index, path)) ?? '').trim() !== '')

/** Tries a proposal in a draft, with what was chosen in place of its stand-ins. */
function tryIt(proposal: ToldProposal, index: number): void {
  const text = proposal.blanks.reduce(
    (json, { path, standIn }) =>
      json.replaceAll(
        JSON.stringify(standIn),
        JSON.stringify(chosen.get(keyOf(index, path))!.trim()),
      ),
    JSON.stringify(proposal.changes),
  )
  void tryChange(proposal.what, proposal.what, JSON.parse(text) as Operation[])
}

const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`

/** What a change brings about, in one line. */
function summary({ packets, findings, mends }: ToldProposal): string {
  const { opened, cut, passedBy, elsewhere } = packets.counts
  return [
    ...(mends === null ? [] : [`mends ${mends} of ${props.of ?? mends}`]),
    `−${findings.went.length} and +${findings.came.length} findings`,
    `opens ${opened}`,
    `cuts ${cut}`,
    ...(passedBy > 0 ? [`${passedBy} no longer inspected`] : []),
    ...(elsewhere > 0 ? [`${elsewhere} led elsewhere`] : []),
  ].join(' · ')
}
const differs = ({ counts }: ToldPackets): boolean => Object.values(counts).some((n) => n > 0)
</script>

<template>
  <section aria-label="What would mend it">
    <h2 class="mb-1.5 font-semibold">What would mend it</h2>
    <p v-if="refused" role="alert" class="text-leak">{{ refused }}</p>
    <p v-if="failure" role="alert" class="text-soft">{{ failure }}</p>
    <p v-else-if="proposals === null" class="text-soft" role="status">
      trying changes against the whole estate …
    </p>
    <p v-else-if="proposals.length === 0" class="text-soft">
      {{
        isCut
          ? 'Time was over before a change was found that reaches it.'
          : 'None of the changes that were tried reaches it and leaves a valid estate.'
      }}
    </p>
    <ol v-else>
      <li v-for="(proposal, index) in proposals" :key="index" class="border-b border-hair py-1.5">
        <p class="font-semibold first-letter:uppercase">{{ proposal.what }}</p>
        <p v-if="!proposal.harmless" class="mt-0.5">
          <span class="font-semibold text-leak">Not without harm:</span>
          {{ proposal.costs.slice(0, 3).join('; ')
          }}<template v-if="proposal.costs.length > 3">
            and {{ count(proposal.costs.length - 3, 'thing', 'things') }} more</template
          >
        </p>
        <label
          v-for="blank in proposal.blanks"
          :key="blank.path"
          class="mt-0.5 flex items-baseline gap-2 text-soft"
        >
          <span>Yours to choose: {{ blank.wants }}. It was tried with one that nobody has.</span>
          <input
            class="mono min-w-32 flex-1 border-b border-ink bg-transparent text-ink"
            :value="chosen.get(keyOf(index, blank.path)) ?? ''"
            :aria-label="blank.wants"
            @input="chosen.set(keyOf(index, blank.path), ($event.target as HTMLInputElement).value)"
          />
        </label>
        <p class="mt-0.5 flex flex-wrap items-baseline gap-x-3 text-xs text-soft">
          <span>{{ summary(proposal) }}</span>
          <button
            type="button"
            class="underline hover:text-ink"
            :aria-expanded="open === index"
            @click="open = open === index ? null : index"
          >
            {{ open === index ? 'fold' : 'what follows from it' }}
          </button>
          <button
            type="button"
            class="text-ink underline disabled:text-faint disabled:no-underline"
            :disabled="!isFilled(proposal, index)"
            :title="isFilled(proposal, index) ? '' : 'choose what is left open first'"
            @click="tryIt(proposal, index)"
          >
            try in a draft
          </button>
        </p>
        <ul class="mt-0.5">
          <li
            v-for="(change, at) in proposal.changes"
            :key="at"
            class="mono text-xs break-all text-soft"
          >
            {{ changeLine(change) }}
          </li>
        </ul>
        <div v-if="open === index" class="mt-2">
          <PacketRows v-if="differs(proposal.packets)" :packets="proposal.packets" />
          <template v-for="side in ['went', 'came'] as const" :key="side">
            <template v-if="proposal.findings[side].length > 0">
              <h3 class="mb-0.5 text-xs text-soft">
                {{ side === 'went' ? 'Findings that go' : 'Findings that come' }}
              </h3>
              <ul class="mb-2">
                <li v-for="text in proposal.findings[side]" :key="text" class="break-words">
                  {{ text }}
                </li>
              </ul>
            </template>
          </template>
        </div>
      </li>
      <li class="py-1.5 text-xs text-soft">
        {{
          proposals[0]!.harmless
            ? 'Each was tried against the whole estate: it mends this and does no harm beside it.'
            : 'Nothing that was tried mends this without harm; this does the least.'
        }}
        {{ isCut ? 'Time was over before all changes were tried.' : '' }}
      </li>
    </ol>
  </section>
</template>
