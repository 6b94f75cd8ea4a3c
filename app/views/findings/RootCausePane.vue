<script setup lang="ts">
import type { Acceptance, ListedRootCause } from '~/api/answers'
import type { AskedQuestion } from '~/composables/useAsk'
import { useFindings, type FindingsChosen } from '~/views/findings/useFindings'

/**
 * What is open beside the list of root causes: the root cause, or one of its findings. One that
 * decides a single finding is shown as that finding.
 */
const props = defineProps<{
  cause: ListedRootCause
  chosen: Omit<FindingsChosen, 'by' | 'rootCause'>
  /** The finding that is open, by its fingerprint; empty for none. */
  fingerprint: string
  refused: string | null
}>()
const emit = defineEmits<{
  open: [fingerprint: string]
  trace: [question: AskedQuestion]
  accept: [fingerprint: string, acceptance: Acceptance | null]
}>()
const { found, failure, more } = useFindings(() => ({
  ...props.chosen,
  by: 'severity',
  rootCause: props.cause.fingerprint,
}))
const findings = computed(() =>
  (found.value?.findings ?? []).filter(({ rootCause }) => rootCause === props.cause.fingerprint),
)
const open = computed(
  () =>
    findings.value.find((one) => one.fingerprint === props.fingerprint) ??
    (props.cause.findings === 1 ? (findings.value[0] ?? null) : null),
)
</script>

<template>
  <FindingDetail v-if="open" :finding="open" @trace="emit('trace', $event)">
    <template v-if="cause.findings > 1" #above>
      <button
        type="button"
        class="mb-2 block cursor-pointer text-left text-xs text-soft hover:text-ink"
        @click="emit('open', '')"
      >
        ‹ {{ cause.sentence }}
      </button>
    </template>
    <AcceptFinding
      :accepted="open.accepted"
      :of="open.fingerprint"
      :root-cause="cause.fingerprint"
      :failure="refused"
      @accept="(fingerprint, acceptance) => emit('accept', fingerprint, acceptance)"
    />
  </FindingDetail>
  <RootCauseDetail
    v-else-if="found"
    :cause="cause"
    :findings="findings"
    :total="cause.matching"
    @open="emit('open', $event)"
    @more="more()"
  >
    <AcceptFinding
      :accepted="cause.accepted"
      :of="cause.fingerprint"
      :root-cause="cause.fingerprint"
      :failure="refused"
      @accept="(fingerprint, acceptance) => emit('accept', fingerprint, acceptance)"
    />
  </RootCauseDetail>
  <p v-else-if="failure" class="p-4 text-leak" role="alert">{{ failure }}</p>
  <p v-else class="p-4 text-soft" role="status">Fetching its findings …</p>
</template>
