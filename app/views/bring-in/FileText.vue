<script setup lang="ts">
import type { Problem } from '@salt-trail/core'
import { offsetOf, wordAt } from '~/views/bring-in/suggested'

/**
 * The text of one file, to read and to mend, with its lines numbered and the faulty ones marked.
 */
const props = defineProps<{ name: string; problems: readonly Problem[] }>()
const text = defineModel<string>({ required: true })
const area = ref<HTMLTextAreaElement | null>(null)
const gutter = ref<HTMLElement | null>(null)

const LINE = 18
/**
 * Above this size the browser's text field becomes slow; the file is then to be edited elsewhere.
 */
const MOST = 1_000_000
const shown = computed(() => text.value.length <= MOST)
const lines = computed(() => (shown.value ? text.value.split('\n').length : 0))
const marks = computed(() => {
  const map = new Map<number, 'error' | 'warning'>()
  for (const problem of props.problems)
    if (map.get(problem.line) !== 'error') map.set(problem.line, problem.severity)
  return map
})

function goTo(line: number, column: number): void {
  const element = area.value
  if (!element) return
  const start = offsetOf(text.value, { line, column })
  const word = wordAt(text.value, start)
  element.focus()
  element.setSelectionRange(start, start + word)
  element.scrollTop = Math.max(0, (line - 6) * LINE)
}
defineExpose({ goTo })
</script>

<template>
  <div v-if="shown" class="flex min-h-0 flex-1 overflow-hidden border border-rule bg-paper">
    <div
      ref="gutter"
      class="mono w-14 shrink-0 overflow-hidden border-r border-hair text-right text-faint select-none"
      style="line-height: 18px"
      aria-hidden="true"
    >
      <div
        v-for="line in lines"
        :key="line"
        class="pr-2"
        :class="
          marks.get(line) === 'error'
            ? 'bg-direct-wash font-semibold text-leak'
            : marks.get(line) === 'warning'
              ? 'bg-translated-wash text-weak'
              : ''
        "
      >
        {{ marks.has(line) ? '›' : '' }} {{ line }}
      </div>
    </div>
    <textarea
      ref="area"
      v-model="text"
      class="mono min-h-0 flex-1 resize-none overflow-auto bg-transparent px-2 whitespace-pre outline-none"
      style="line-height: 18px"
      :aria-label="`Text of ${name}`"
      spellcheck="false"
      autocomplete="off"
      wrap="off"
      @scroll="gutter && (gutter.scrollTop = ($event.target as HTMLTextAreaElement).scrollTop)"
    />
  </div>
  <p v-else class="border border-rule p-4 text-soft">
    {{ name }} holds {{ (text.length / 1e6).toFixed(1) }} million characters: too many to edit here.
    Its errors are listed beside; mend them in the file and drop it again.
  </p>
</template>
