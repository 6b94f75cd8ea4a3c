<script setup lang="ts">
import { differences } from '~/views/exits/compare'
import type { Cell, ColumnKey } from '~/views/exits/cells'

/** Two rows of the matrix under each other: only what differs. */
const props = defineProps<{
  a: string
  b: string
  columns: readonly {
    readonly key: ColumnKey
    readonly title: string
    readonly a: Cell
    readonly b: Cell
  }[]
}>()
const emit = defineEmits<{ close: [] }>()
const found = computed(() => differences(props.columns))
</script>

<template>
  <section
    class="max-h-[46%] shrink-0 overflow-y-auto border-t-2 border-ink bg-paper"
    tabindex="0"
    :aria-label="`${a} compared with ${b}`"
  >
    <header class="sticky top-0 flex items-baseline gap-3 border-b border-rule bg-paper px-4 py-2">
      <h2 class="font-semibold">{{ a }} and {{ b }}: what differs</h2>
      <button
        type="button"
        class="ml-auto cursor-pointer text-xs text-soft hover:text-ink"
        @click="emit('close')"
      >
        <kbd>Esc</kbd> close
      </button>
    </header>
    <p v-if="found.length === 0" class="px-4 py-3 text-soft">
      Nothing: both have the same ways everywhere.
    </p>
    <table v-else class="w-full table-fixed border-collapse">
      <thead>
        <tr class="text-left text-xs text-soft">
          <th class="w-40 py-1 pl-4 font-medium">place</th>
          <th class="py-1 pr-4 font-medium">{{ a }}</th>
          <th class="py-1 pr-4 font-medium">{{ b }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in found" :key="one.title" class="border-t border-hair align-top">
          <th scope="row" class="py-1.5 pl-4 text-left font-semibold">{{ one.title }}</th>
          <td v-for="side in ['a', 'b'] as const" :key="side" class="py-1.5 pr-4">
            <p v-for="line in one[side]" :key="line" class="break-words">{{ line }}</p>
            <p v-if="one[side].length === 0" class="text-faint">nothing that the other has not</p>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
