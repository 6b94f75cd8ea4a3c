<script setup lang="ts">
export interface KeyHint {
  readonly keys: string
  readonly does: string
}

/** What is analysed and how fresh it is; what the view has to say; the keys that work here. */
const props = defineProps<{ said?: string; keys: readonly KeyHint[] }>()
const emit = defineEmits<{ 'all-keys': [] }>()
const estate = useEstate()

const analysed = computed(() => {
  if (estate.failure) return estate.failure
  if (!estate.slug) return ''
  if (!estate.outline) return 'reading the estate …'
  const { analysis } = estate
  if (!analysis || analysis.state === 'none') return ''
  if (analysis.state === 'running') return `analysing: ${analysis.progress!.about}`
  if (analysis.state !== 'done') return analysis.message ?? analysis.state
  const seconds = (analysis.milliseconds ?? 0) / 1000
  return `analysed revision ${analysis.revision} in ${seconds < 0.01 ? '0.01' : seconds.toFixed(2)} s`
})
const running = computed(() =>
  estate.analysis?.state === 'running' ? estate.analysis.progress! : null,
)
const ended = computed(
  () => estate.analysis?.state === 'failed' || estate.analysis?.state === 'stopped',
)
const counted = computed(() => {
  const counts = estate.outline?.counts
  if (!counts) return ''
  const text = (n: number | undefined, one: string, many: string): string =>
    `${(n ?? 0).toLocaleString('en-GB')} ${n === 1 ? one : many}`
  return [
    text(counts.subnets, 'subnet', 'subnets'),
    text(counts.routeTables, 'table', 'tables'),
    text(counts.routes, 'route', 'routes'),
  ].join(', ')
})
/** How many root causes decide how many findings. */
const found = computed(() => {
  const counts = estate.analysis?.counts
  if (!counts || counts.rootCauses === 0) return null
  const findings = Object.values(counts.findings).reduce((sum, n) => sum + n, 0)
  const text = (n: number, one: string): string =>
    `${n.toLocaleString('en-GB')} ${one}${n === 1 ? '' : 's'}`
  return `${text(counts.rootCauses, 'root cause')}, ${text(findings, 'finding')}`
})
/** Findings by severity, the most severe first; notes are left to the view. */
const graves = computed(() =>
  (['critical', 'high', 'medium', 'low'] as const).flatMap((severity) => {
    const n = estate.analysis?.counts?.findings[severity] ?? 0
    return n > 0 ? [{ severity, says: `${n.toLocaleString('en-GB')} ${severity}` }] : []
  }),
)
</script>

<template>
  <footer
    class="flex items-center gap-[22px] overflow-hidden border-t border-rule bg-paper px-4 text-xs text-soft"
  >
    <span role="status" class="min-w-0 truncate" :class="estate.failure ? 'text-leak' : ''">{{
      props.said ?? analysed
    }}</span>
    <span v-if="running" class="flex items-center gap-2 whitespace-nowrap">
      <progress
        class="h-1.5 w-28"
        :value="running.done"
        :max="running.of"
        :aria-label="`Analysis: ${running.about}`"
      />
      <button
        type="button"
        class="cursor-pointer border-b border-ink text-ink"
        @click="estate.stop()"
      >
        stop
      </button>
    </span>
    <button
      v-if="ended"
      type="button"
      class="cursor-pointer border-b border-ink whitespace-nowrap text-ink"
      @click="estate.analyseAgain()"
    >
      analyse again
    </button>
    <span v-if="counted" class="whitespace-nowrap max-lg:hidden">{{ counted }}</span>
    <NuxtLink
      v-if="found"
      :to="`/${estate.slug}/${estate.revision}/findings`"
      class="shrink-0 whitespace-nowrap hover:text-ink"
      >{{ found }}</NuxtLink
    >
    <span v-if="graves.length > 0" class="flex shrink-0 gap-2.5 whitespace-nowrap">
      <NuxtLink
        v-for="{ severity, says } in graves"
        :key="severity"
        :to="{ path: `/${estate.slug}/${estate.revision}/findings`, query: { severity } }"
        class="hover:text-ink"
        :class="severity === 'critical' ? 'font-semibold text-ink' : ''"
        >{{ says }}</NuxtLink
      >
    </span>
    <span class="ml-auto flex shrink-0 gap-4 whitespace-nowrap">
      <span
        v-for="(hint, at) in props.keys.slice(0, 4)"
        :key="hint.keys"
        :class="at > 1 ? 'max-lg:hidden' : ''"
        ><kbd>{{ hint.keys }}</kbd> {{ hint.does }}</span
      >
      <button type="button" class="cursor-pointer hover:text-ink" @click="emit('all-keys')">
        <kbd>?</kbd> keys
      </button>
    </span>
  </footer>
</template>
