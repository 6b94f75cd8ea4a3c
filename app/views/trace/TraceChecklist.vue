<script setup lang="ts">
import { checklistOf, type Branch, type Check } from '@salt-trail/core'

/**
 * What an engineer would look at by hand, answered for this path. Each leads to the station that
 * shows it.
 */
const props = defineProps<{ branch: Branch }>()
const emit = defineEmits<{ show: [shown: NonNullable<Check['shown']>] }>()
const checks = computed(() => checklistOf(props.branch))
const WORDS: Record<Check['state'], string> = {
  ticked: 'yes',
  failed: 'no',
  'not-reached': 'not reached',
  'not-needed': 'not needed',
}
</script>

<template>
  <section aria-label="Checklist">
    <h2 class="mb-1.5 font-semibold">Checklist</h2>
    <ul>
      <li v-for="check in checks" :key="check.id" class="border-b border-hair">
        <button
          type="button"
          class="on-paper grid w-full grid-cols-[20px_minmax(0,1fr)_auto] items-baseline gap-x-1 py-1 text-left enabled:cursor-pointer enabled:hover:bg-wash"
          :disabled="check.shown === null"
          @click="check.shown && emit('show', check.shown)"
        >
          <span class="self-center" aria-hidden="true">
            <ProblemMark v-if="check.state === 'failed'" mark="hole" :size="13" />
            <svg
              v-else
              width="13"
              height="13"
              viewBox="0 0 13 13"
              fill="none"
              stroke="currentColor"
              stroke-width="1.5"
              class="text-soft"
            >
              <path v-if="check.state === 'ticked'" d="M2 7 L5.2 10 L11 3" />
              <path
                v-else-if="check.state === 'not-reached'"
                d="M2 6.5 H11"
                stroke-dasharray="1.5 2.5"
              />
              <circle v-else cx="6.5" cy="6.5" r="1" fill="currentColor" stroke="none" />
            </svg>
          </span>
          <span
            :class="[
              check.state === 'failed' ? 'font-semibold' : '',
              check.state === 'not-reached' ? 'text-faint' : '',
            ]"
          >
            {{ check.asks }}<span class="sr-only">: {{ WORDS[check.state] }}</span>
          </span>
          <span
            v-if="check.state === 'not-reached' || check.state === 'not-needed'"
            class="text-xs text-faint"
            aria-hidden="true"
            >{{ check.found || WORDS[check.state] }}</span
          >
          <span
            v-else-if="check.found"
            class="col-span-2 col-start-2 truncate text-xs text-soft print:whitespace-normal"
            :title="check.found"
            >{{ check.found }}</span
          >
        </button>
      </li>
    </ul>
  </section>
</template>
