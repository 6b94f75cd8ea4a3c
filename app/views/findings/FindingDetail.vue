<script setup lang="ts">
import { aboutFinding, familyOfCode } from '@salt-trail/core'
import type { ListedFinding } from '~/api/answers'
import { expectationQuery } from '~/views/expectations/written'
import { useAnswer } from '~/api/useAnswer'
import { withGhostedRest } from '~/views/trace/ghosted-rest'

/** One finding: what is wrong, the objects concerned, the packet that shows it, and the mend. */
const props = defineProps<{ finding: ListedFinding }>()
const emit = defineEmits<{
  trace: [question: NonNullable<ListedFinding['evidence']['question']>]
}>()
const estate = useEstate()
const { branch: lost, failure } = useShown(() => props.finding.evidence.question)

/** Proposals are looked for once the finding is opened: each is tried against the estate. */
const { answer: proposed, failure: proposedFailure } = useAnswer<'proposals'>(() =>
  estate.fixedBase === null
    ? null
    : {
        base: estate.fixedBase,
        path: 'proposals',
        body: { finding: props.finding.fingerprint },
      },
)
/** The promise that the finding breaks: that its packet arrives, or that it never does. */
const expected = computed(() => {
  const { question } = props.finding.evidence
  const must = familyOfCode(props.finding.code) === 'hole' ? 'reach' : 'never-reach'
  return question && expectationQuery(question, must)
})
const branch = computed(
  () => lost.value && withGhostedRest(lost.value, proposed.value?.proposals[0]?.shown ?? null),
)
</script>

<template>
  <section class="flex flex-col gap-4 p-5" :aria-label="`Finding ${finding.code}`">
    <header>
      <slot name="above" />
      <p class="mb-1 flex items-center gap-2 text-xs text-soft">
        <ProblemMark :mark="familyOfCode(finding.code)" :size="15" />
        <ExplainedTerm
          class="mono"
          :text="aboutFinding(finding.code)"
          to="/reference?of=findings"
          >{{ finding.code }}</ExplainedTerm
        >
        <span>{{ finding.severity }}</span>
        <ObjectName
          v-if="finding.anchor.includes('/')"
          class="mono"
          :of="finding.anchor"
          :says="finding.anchor"
        />
        <span v-else class="mono">{{ finding.anchor }}</span>
      </p>
      <h2 class="text-base font-semibold">
        <NamedText :text="finding.sentence" :objects="[finding.anchor, ...finding.objects]" />
      </h2>
    </header>
    <div v-if="finding.evidence.question">
      <div class="mb-1 flex items-baseline gap-3">
        <h3 class="font-semibold">A packet that shows it</h3>
        <button
          type="button"
          class="action ml-auto"
          data-shows-trace
          @click="emit('trace', finding.evidence.question)"
        >
          Show the whole trace
        </button>
      </div>
      <SmallStrip v-if="branch" :branch="branch" />
      <p v-else-if="failure" role="alert" class="text-leak">{{ failure }}</p>
      <p v-else class="text-xs text-soft" role="status">tracing …</p>
    </div>
    <p class="flex gap-4 text-xs">
      <NuxtLink
        class="border-b border-ink"
        :to="{
          path: `/${estate.slug}/${estate.revision}/map`,
          query: { finding: finding.fingerprint },
        }"
        >on the map</NuxtLink
      >
      <NuxtLink
        v-if="expected"
        class="border-b border-ink"
        :to="{ path: `/${estate.slug}/${estate.revision}/expectations`, query: expected }"
        >{{
          expected.must === 'reach' ? 'expect that it works' : 'expect that it never happens'
        }}</NuxtLink
      >
    </p>
    <slot />
    <ProposalList
      :proposals="proposed?.proposals ?? null"
      :failure="proposedFailure ?? ''"
      :is-cut="proposed?.isCut"
    />
    <div v-if="finding.evidence.ranges.length > 0">
      <h3 class="mb-1 font-semibold">Exactly</h3>
      <p class="mono leading-6 break-words">{{ finding.evidence.ranges.join('  ') }}</p>
    </div>
    <ul v-if="finding.evidence.facts.length > 0" class="list-disc pl-5">
      <li v-for="fact in finding.evidence.facts" :key="fact">{{ fact }}</li>
    </ul>
    <div>
      <h3 class="mb-1 font-semibold">Objects concerned, the one to change first at the head</h3>
      <ol>
        <li
          v-for="object in finding.objects.slice(0, 20)"
          :key="object"
          class="mono border-b border-hair py-0.5"
        >
          <ObjectName v-if="object.includes('/')" :of="object" :says="object" />
          <template v-else>{{ object }}</template>
        </li>
      </ol>
      <p v-if="finding.objects.length > 20" class="mt-1 text-xs text-soft">
        and {{ finding.objects.length - 20 }} more
      </p>
    </div>
  </section>
</template>
