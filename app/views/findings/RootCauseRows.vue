<script setup lang="ts">
import { familyOfCode } from '@salt-trail/core'
import type { ListedRootCause } from '~/api/answers'
import { touchesText } from '~/views/findings/finding-words'

/** Root causes one below the other, the gravest first, with whom each touches and what is at stake. */
defineProps<{ causes: readonly ListedRootCause[]; open: ListedRootCause | null }>()
const emit = defineEmits<{ open: [fingerprint: string] }>()
</script>

<template>
  <button
    v-for="one in causes"
    :id="`cause-${one.fingerprint}`"
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
      >{{ one.sentence }}
      <span class="block text-xs text-soft"
        >{{ touchesText(one)
        }}<template v-if="one.concerns.length > 0">; {{ one.concerns.join(', ') }}</template></span
      ></span
    >
  </button>
</template>
