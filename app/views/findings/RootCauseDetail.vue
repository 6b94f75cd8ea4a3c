<script setup lang="ts">
import { aboutFinding, decidesText, familyOfCode } from '@salt-trail/core'
import type { ListedFinding, ListedRootCause } from '~/api/answers'
import { useAnswer } from '~/api/useAnswer'
import { touchesText } from '~/views/findings/finding-words'

/** A root cause: what decides, what mends all of it at once, and the findings it decides. */
const props = defineProps<{
  cause: ListedRootCause
  findings: readonly ListedFinding[]
  /** How many of its findings match what is chosen. */
  total: number
}>()
const emit = defineEmits<{ open: [fingerprint: string]; more: [] }>()
const estate = useEstate()
const { answer: proposed, failure } = useAnswer<'proposals'>(() =>
  estate.fixedBase === null
    ? null
    : {
        base: estate.fixedBase,
        path: 'proposals',
        body: { rootCause: props.cause.fingerprint },
      },
)
/** How many of what decides stand above the proposals, until the rest is asked for. */
const MOST_ROOTS = 8
const isUnfolded = ref(false)
watch(
  () => props.cause.fingerprint,
  () => (isUnfolded.value = false),
)
const decides = computed(() =>
  props.cause.roots.slice(0, isUnfolded.value ? undefined : MOST_ROOTS).map((root) => ({
    ...root,
    text: decidesText({ roots: [root], of: null, areAlike: false }),
    objects: [root.object, root.part].filter((ref) => ref.includes('/')),
  })),
)
</script>

<template>
  <section class="flex flex-col gap-4 p-5" :aria-label="`Root cause ${cause.code}`">
    <header>
      <p class="mb-1 flex items-center gap-2 text-xs text-soft">
        <ProblemMark :mark="familyOfCode(cause.code)" :size="15" />
        <span>root cause</span>
        <span>{{ cause.severity }}</span>
        <span>{{ touchesText(cause) }}</span>
      </p>
      <h2 class="text-base font-semibold">{{ cause.sentence }}</h2>
      <p v-if="cause.concerns.length > 0" class="mt-1">
        {{ familyOfCode(cause.code) === 'hole' ? 'Lost' : 'Concerned' }}:
        {{ cause.concerns.join(', ') }}
      </p>
      <p v-if="cause.unlike.length > 0" class="mt-1">
        Unlike their likes: {{ cause.unlike.join('; ') }}
      </p>
    </header>
    <div>
      <h3 class="mb-1 font-semibold">What decides</h3>
      <ul>
        <li
          v-for="root in decides"
          :key="`${root.object} ${root.part}`"
          class="flex items-baseline gap-3 border-b border-hair py-0.5"
        >
          <NamedText :text="root.text" :objects="root.objects" />
          <span class="ml-auto text-xs whitespace-nowrap text-soft"
            >{{ root.findings }} {{ root.findings === 1 ? 'finding' : 'findings' }}</span
          >
        </li>
      </ul>
      <button
        v-if="decides.length < cause.roots.length"
        type="button"
        class="mt-1 cursor-pointer text-soft underline hover:text-ink"
        @click="isUnfolded = true"
      >
        {{ (cause.roots.length + cause.moreRoots - decides.length).toLocaleString('en-GB') }} more
      </button>
      <p v-else-if="cause.moreRoots > 0" class="mt-1 text-xs text-soft">
        and {{ cause.moreRoots.toLocaleString('en-GB') }} more
      </p>
    </div>
    <slot />
    <ProposalList
      :proposals="proposed?.proposals ?? null"
      :failure="failure ?? ''"
      :of="cause.findings"
      :is-cut="proposed?.isCut"
    />
    <div>
      <h3 class="mb-1 font-semibold">Findings it decides</h3>
      <p class="mb-1 flex flex-wrap gap-x-3 text-xs text-soft">
        <span v-for="one in cause.codes" :key="one.code"
          ><ExplainedTerm class="mono" :text="aboutFinding(one.code)" to="/reference?of=findings">{{
            one.code
          }}</ExplainedTerm>
          {{ one.findings }}</span
        >
      </p>
      <div class="-mx-4">
        <FindingRows :findings="findings" :open="null" @open="emit('open', $event)" />
      </div>
      <button
        v-if="findings.length < total"
        type="button"
        class="mt-1 cursor-pointer text-soft hover:text-ink"
        @click="emit('more')"
      >
        {{ (total - findings.length).toLocaleString('en-GB') }} more: show the next
      </button>
    </div>
  </section>
</template>
