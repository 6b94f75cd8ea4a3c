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
  if (!estate.exits) return 'computing every way out …'
  if (!estate.found && !estate.notFound) return 'looking for what is wrong …'
  const seconds = (estate.exits.milliseconds + (estate.found?.milliseconds ?? 0)) / 1000
  return `analysed revision ${estate.exits.revision} in ${seconds < 0.01 ? '0.01' : seconds.toFixed(2)} s`
})
const counted = computed(() => {
  const counts = estate.outline?.counts
  if (!counts) return ''
  const text = (n: number | undefined, one: string, many: string): string => `${(n ?? 0).toLocaleString('en-GB')} ${n === 1 ? one : many}`
  return [text(counts.subnets, 'subnet', 'subnets'), text(counts.routeTables, 'table', 'tables'), text(counts.routes, 'route', 'routes')].join(', ')
})
/** Findings by severity, the gravest first; notes are left to the view. */
const graves = computed(() =>
  (['critical', 'high', 'medium', 'low'] as const).flatMap((severity) => {
    const n = estate.found?.findings.filter((one) => one.severity === severity).length ?? 0
    return n > 0 ? [`${n} ${severity}`] : []
  }),
)
</script>

<template>
  <footer class="flex items-center gap-[22px] border-t border-rule bg-paper px-4 text-xs text-soft">
    <span role="status" :class="estate.failure ? 'text-leak' : ''">{{ props.said ?? analysed }}</span>
    <span v-if="counted" class="whitespace-nowrap">{{ counted }}</span>
    <NuxtLink v-if="graves.length > 0" :to="`/${estate.slug}/${estate.revision}/findings`" class="whitespace-nowrap hover:text-ink">{{
      graves.join(', ')
    }}</NuxtLink>
    <span class="ml-auto flex gap-4 whitespace-nowrap">
      <span v-for="hint in props.keys.slice(0, 4)" :key="hint.keys"
        ><kbd>{{ hint.keys }}</kbd> {{ hint.does }}</span
      >
      <button type="button" class="cursor-pointer hover:text-ink" @click="emit('all-keys')"><kbd>?</kbd> keys</button>
    </span>
  </footer>
</template>
