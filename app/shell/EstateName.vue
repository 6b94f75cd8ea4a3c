<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import type { EstateInfo } from '~/api/answers'

/** The estate and revision on screen, and a menu of the others. */
const estate = useEstate()
const dialog = ref<{ show: () => void } | null>(null)
const listed = ref<EstateInfo[]>([])

const subtitle = computed(() => {
  const { outline } = estate
  if (!outline) return estate.slug ? 'loading' : 'no estate yet'
  const older =
    outline.revision.number < outline.head
      ? `, ${outline.head - outline.revision.number} behind the newest`
      : ''
  if (outline.draft) return `draft of revision ${outline.revision.number}`
  return `revision ${outline.revision.number}, ${when(outline.revision.createdAt)}${older}`
})

async function list(): Promise<void> {
  listed.value = await $fetch<EstateInfo[]>('/api/estates').catch(() => [])
}
</script>

<template>
  <Menu as="div" class="relative w-[264px] shrink-0 px-4 max-lg:w-[168px]">
    <MenuButton class="max-w-full cursor-pointer text-left leading-tight" @click="list">
      <span class="block truncate text-sm font-semibold">{{
        estate.outline?.name ?? estate.slug ?? 'Salt Trail'
      }}</span>
      <span class="block truncate text-xs text-soft">{{ subtitle }}</span>
    </MenuButton>
    <MenuItems
      class="absolute top-10 left-4 z-30 max-h-96 w-80 overflow-auto border border-ink bg-paper py-1 outline-none"
    >
      <MenuItem v-for="one in listed" :key="one.slug" v-slot="{ active }">
        <NuxtLink
          :to="`/${one.slug}/head/exits`"
          class="block px-3 py-1.5"
          :class="active ? 'bg-wash' : ''"
        >
          <span class="block font-semibold">{{ one.name }}</span>
          <span class="block text-xs text-soft"
            >revision {{ one.head.number }}, {{ when(one.head.createdAt) }}</span
          >
        </NuxtLink>
      </MenuItem>
      <MenuItem v-if="estate.outline" v-slot="{ active }">
        <button
          type="button"
          class="block w-full cursor-pointer border-t border-hair px-3 py-1.5 text-left"
          :class="active ? 'bg-wash' : ''"
          @click="dialog?.show()"
        >
          Rename or delete {{ estate.outline.name }}
        </button>
      </MenuItem>
      <MenuItem v-slot="{ active }">
        <NuxtLink
          to="/bring-in"
          class="block border-t border-hair px-3 py-1.5"
          :class="active ? 'bg-wash' : ''"
          >Bring in another estate</NuxtLink
        >
      </MenuItem>
    </MenuItems>
  </Menu>
  <EstateDialog ref="dialog" />
</template>
