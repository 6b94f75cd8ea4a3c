<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { onKeyStroke } from '@vueuse/core'
import type { KeyHint } from './StatusLine.vue'

/** All keys: those of everywhere and those of the view on screen. "?" opens it. */
defineProps<{ keys: readonly KeyHint[] }>()
const open = ref(false)
const EVERYWHERE: readonly KeyHint[] = [
  { keys: '/', does: 'to the question bar, which also finds objects, findings and views' },
  { keys: 'w', does: 'exchanges the ends of the question' },
  { keys: 'Enter', does: 'in the question bar: the next field, then the answer' },
  { keys: 'Ctrl Enter', does: 'in the question bar: answers at once' },
  { keys: '↓', does: 'in the empty question bar: what was asked before' },
  { keys: '1 … 9, 0', does: 'the views; 0 is the draft' },
  { keys: 'd', does: 'while a draft is open: the draft, its base, the difference, in turn' },
  { keys: 'u', does: 'undo what was changed in the view' },
  { keys: '?', does: 'these keys' },
]

onKeyStroke('?', (event) => {
  if (isTyping(event.target)) return
  open.value = true
})
defineExpose({ show: () => (open.value = true) })
</script>

<template>
  <Dialog :open="open" class="relative z-40" @close="open = false">
    <div class="fixed inset-0 bg-ground/80" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center pt-24">
      <DialogPanel class="w-[460px] border border-ink bg-paper p-5">
        <DialogTitle class="mb-3 text-base font-semibold">Keys</DialogTitle>
        <dl class="grid grid-cols-[8rem_1fr] gap-y-1.5">
          <template v-for="hint in [...keys, ...EVERYWHERE]" :key="hint.keys + hint.does">
            <dt>
              <kbd>{{ hint.keys }}</kbd>
            </dt>
            <dd class="text-soft">{{ hint.does }}</dd>
          </template>
        </dl>
        <button type="button" class="action action-main mt-4" @click="open = false">Close</button>
      </DialogPanel>
    </div>
  </Dialog>
</template>
