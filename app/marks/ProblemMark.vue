<script setup lang="ts">
import type { FindingFamily } from '@salt-trail/core'

/**
 * The three marks for problems: a drop for leaks, a ringed disc for black holes, a wave for weak
 * spots. Shapes first, colours second.
 */
const props = withDefaults(defineProps<{ mark: FindingFamily; size?: number; label?: string }>(), {
  size: 13,
  label: undefined,
})
const NAMES: Record<FindingFamily, string> = { leak: 'leak', hole: 'black hole', weak: 'weak spot' }
const name = computed(() => props.label ?? NAMES[props.mark])
</script>

<template>
  <svg
    :width="size"
    :height="size"
    viewBox="0 0 14 14"
    role="img"
    :aria-label="name"
    class="shrink-0"
  >
    <path
      v-if="mark === 'leak'"
      d="M7 1.2C9.2 4.3 11 6.3 11 8.6a4 4 0 0 1-8 0C3 6.3 4.8 4.3 7 1.2Z"
      fill="none"
      stroke="var(--leak)"
      stroke-width="1.8"
    />
    <template v-else-if="mark === 'hole'">
      <circle cx="7" cy="7" r="5.6" fill="var(--hole)" />
      <circle cx="7" cy="7" r="2.6" fill="none" stroke="var(--ground)" stroke-width="1.5" />
    </template>
    <path
      v-else
      d="M1 8.6c1.6-3.4 3.4-3.4 5 0s4 3 7-2.4"
      fill="none"
      stroke="var(--weak)"
      stroke-width="1.9"
    />
  </svg>
</template>
