<script setup lang="ts">
import type { Problem } from '@salt-trail/core'

/** Everything wrong, in the order of the files; each leads to its place in the text. */
defineProps<{ problems: readonly Problem[] }>()
const emit = defineEmits<{ go: [problem: Problem]; mend: [problem: Problem] }>()
</script>

<template>
  <ol class="min-h-0">
    <li v-for="(problem, index) in problems" :key="index" class="border-b border-hair">
      <button
        type="button"
        class="block w-full cursor-pointer px-1 py-1.5 text-left hover:bg-wash"
        @click="emit('go', problem)"
      >
        <span
          class="block text-xs"
          :class="problem.severity === 'error' ? 'text-leak' : 'text-weak'"
        >
          {{ problem.severity }},
          <span class="mono">{{ problem.file }} {{ problem.line }}:{{ problem.column }}</span>
        </span>
        <span class="block break-words">{{ problem.message }}</span>
      </button>
      <button
        v-if="problem.suggestion"
        type="button"
        class="mb-1.5 ml-1 cursor-pointer text-xs underline"
        @click="emit('mend', problem)"
      >
        put <span class="mono">{{ problem.suggestion }}</span> there
      </button>
    </li>
  </ol>
</template>
