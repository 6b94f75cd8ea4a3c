<script setup lang="ts">
import type { WayKind } from '@salt-trail/core'
import { WAY_WORDS } from '~/views/exits/way-words'

/**
 * The letter of a kind of way, in its tone and over its line pattern: T translated, F inspected by
 * a firewall, D direct, P private line, S service.
 */
defineProps<{ kind: WayKind | null }>()

const LETTERS: Record<WayKind, { letter: string; tone: string; line: string }> = {
  translated: { letter: 'T', tone: 'bg-translated-wash text-translated', line: 'way-translated' },
  inspected: { letter: 'F', tone: 'bg-inspected-wash text-inspected', line: 'way-inspected' },
  direct: { letter: 'D', tone: 'bg-direct-wash text-direct', line: 'way-direct' },
  'private-line': { letter: 'P', tone: 'bg-line-wash text-line', line: 'way-private-line' },
  service: { letter: 'S', tone: 'bg-service-wash text-service', line: 'way-service' },
  local: { letter: '·', tone: 'text-local', line: '' },
  lost: { letter: '', tone: '', line: '' },
}
</script>

<template>
  <span
    class="relative inline-block h-[18px] w-[18px] shrink-0 overflow-hidden rounded-[2px] text-center font-mono text-xs leading-[15px] font-semibold"
    :class="kind ? LETTERS[kind].tone : ''"
    :title="kind && kind !== 'lost' ? WAY_WORDS[kind] : undefined"
    aria-hidden="true"
    >{{ kind ? LETTERS[kind].letter : ''
    }}<span
      v-if="kind && LETTERS[kind].line"
      class="absolute inset-x-0 bottom-0 h-[3px]"
      :class="LETTERS[kind].line"
  /></span>
</template>
