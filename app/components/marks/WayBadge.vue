<script setup lang="ts">
import type { WayKind } from '@salt-trail/core'

/** The letter of a kind of way, in its tone: T translated, F inspected by a firewall, D direct, P private line, S service. */
defineProps<{ kind: WayKind | null }>()

const LETTERS: Record<WayKind, { letter: string; name: string; tone: string }> = {
  translated: { letter: 'T', name: 'translated', tone: 'bg-translated-wash text-translated' },
  inspected: { letter: 'F', name: 'inspected by a firewall', tone: 'bg-inspected-wash text-inspected' },
  direct: { letter: 'D', name: 'direct', tone: 'bg-direct-wash text-direct' },
  'private-line': { letter: 'P', name: 'private line', tone: 'bg-line-wash text-line' },
  service: { letter: 'S', name: 'service', tone: 'bg-service-wash text-service' },
  local: { letter: '·', name: 'local', tone: 'text-local' },
  lost: { letter: '', name: 'lost', tone: '' },
}
</script>

<template>
  <span
    class="inline-block h-[17px] w-[18px] shrink-0 rounded-[2px] text-center font-mono text-xs leading-[17px] font-semibold"
    :class="kind ? LETTERS[kind].tone : ''"
    :title="kind && kind !== 'lost' ? LETTERS[kind].name : undefined"
    aria-hidden="true"
    >{{ kind ? LETTERS[kind].letter : '' }}</span
  >
</template>
