<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { TERMS, type Term } from '~/help/terms'

/** A word that explains itself on demand: by its term, or by a text of its own. */
const props = defineProps<{ term?: Term; text?: string; to?: string }>()
const said = computed(() => props.text ?? (props.term ? TERMS[props.term].says : ''))
const button = ref<{ $el: HTMLElement } | null>(null)
const place = ref({ left: '0px', top: '0px' })
const WIDTH = 300
/** It is drawn above elements that clip their content. */
function put(): void {
  const box = button.value?.$el.getBoundingClientRect()
  if (!box) return
  const below = box.bottom + 120 < window.innerHeight
  place.value = {
    left: `${Math.max(8, Math.min(box.left, window.innerWidth - WIDTH - 16))}px`,
    top: below ? `${box.bottom + 4}px` : `${Math.max(8, box.top - 110)}px`,
  }
}
</script>

<template>
  <Popover as="span" class="inline-block">
    <PopoverButton
      ref="button"
      class="cursor-help border-b border-dotted border-faint text-left font-[inherit] text-inherit hover:border-ink"
      @click.stop="put"
      @keydown.enter.stop
      @keydown.space.stop
      ><slot
    /></PopoverButton>
    <Teleport to="body">
      <PopoverPanel
        class="fixed z-50 border border-ink bg-paper px-3 py-2 text-sm font-normal whitespace-normal text-ink"
        :style="{ ...place, width: `${WIDTH}px` }"
      >
        {{ said }}
        <NuxtLink v-if="to" :to="to" class="mt-1 block w-fit border-b border-rule text-xs text-soft"
          >more in the reference</NuxtLink
        >
      </PopoverPanel>
    </Teleport>
  </Popover>
</template>
