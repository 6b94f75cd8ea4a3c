<script setup lang="ts">
import type { ObjectChange } from '@salt-trail/core'

/** What would change against the newest revision, object by object. */
const props = defineProps<{ changes: readonly ObjectChange[]; base: number }>()
const MOST = 400
const count = (kind: ObjectChange['kind']): number =>
  props.changes.filter((change) => change.kind === kind).length
const SIGNS: Record<ObjectChange['kind'], string> = { added: '+', removed: '−', changed: '~' }
</script>

<template>
  <section>
    <h2 class="mb-1 font-semibold">Against revision {{ base }}</h2>
    <p class="mb-2 text-soft">
      {{
        changes.length === 0
          ? 'Nothing would change.'
          : `${count('added')} added, ${count('changed')} changed, ${count('removed')} removed`
      }}
    </p>
    <ul>
      <li
        v-for="change in changes.slice(0, MOST)"
        :key="change.object"
        class="flex gap-2 border-b border-hair py-1"
      >
        <span class="mono w-3 shrink-0" aria-hidden="true">{{ SIGNS[change.kind] }}</span>
        <span class="mono break-all"
          ><span class="sr-only">{{ change.kind }} </span>{{ change.object }}</span
        >
        <span v-if="change.keys.length > 0" class="ml-auto text-right text-xs text-soft">{{
          change.keys.join(', ')
        }}</span>
      </li>
    </ul>
    <p v-if="changes.length > MOST" class="py-2 text-soft">and {{ changes.length - MOST }} more</p>
  </section>
</template>
