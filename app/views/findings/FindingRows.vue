<script setup lang="ts">
import { familyOfCode } from '@salt-trail/core'
import type { ListedFinding } from '~/api/answers'

/** Findings one below the other; one of them can be open. */
defineProps<{ findings: readonly ListedFinding[]; open: ListedFinding | null }>()
const emit = defineEmits<{ open: [fingerprint: string] }>()
</script>

<template>
  <button
    v-for="one in findings"
    :id="`finding-${one.fingerprint}`"
    :key="one.fingerprint"
    type="button"
    class="grid w-full cursor-pointer grid-cols-[22px_64px_minmax(0,1fr)] items-start border-b border-hair px-4 py-1.5 text-left"
    :class="one === open ? 'bg-wash shadow-[inset_3px_0_var(--focus)]' : ''"
    :aria-current="one === open"
    @click="emit('open', one.fingerprint)"
  >
    <ProblemMark :mark="familyOfCode(one.code)" class="mt-0.5" />
    <span class="text-xs leading-5 text-soft">{{ one.accepted ? 'accepted' : one.severity }}</span>
    <span :class="one.accepted ? 'text-soft' : ''"
      >{{ one.sentence }} <span class="mono whitespace-nowrap text-soft">{{ one.code }}</span></span
    >
  </button>
</template>
