<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { useClipboard } from '@vueuse/core'
import { asCsv, asMarkdown, type TableText } from '~/tables/table-text'
import { saveText } from '~/tables/save'

/** Takes the table on screen elsewhere: into a spreadsheet, a report, a file. */
const props = defineProps<{ name: string; table: () => TableText | Promise<TableText> }>()
const { copy, copied } = useClipboard({ legacy: true })
const WAYS = [
  { title: 'copy as CSV', take: async () => copy(asCsv(await props.table())) },
  { title: 'copy as Markdown', take: async () => copy(asMarkdown(await props.table())) },
  {
    title: 'save as CSV',
    take: async () => saveText(`${props.name}.csv`, asCsv(await props.table()), 'text/csv'),
  },
]
</script>

<template>
  <Menu as="div" class="relative text-xs">
    <MenuButton
      class="cursor-pointer border-b border-rule whitespace-nowrap text-soft hover:text-ink"
      >{{ copied ? 'copied' : 'Copy or save table' }}</MenuButton
    >
    <MenuItems class="absolute right-0 z-20 mt-1 w-40 border border-ink bg-paper py-1 outline-none">
      <MenuItem v-for="way in WAYS" :key="way.title" v-slot="{ active }">
        <button
          type="button"
          class="block w-full cursor-pointer px-3 py-1 text-left"
          :class="active ? 'bg-wash text-ink' : 'text-ink'"
          @click="way.take()"
        >
          {{ way.title }}
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
