<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'

/** A session that ended is begun again over what is on screen, so that nothing of it is lost. */
const account = useAccount()
</script>

<template>
  <Dialog :open="account.hasEnded" class="relative z-50" @close="() => undefined">
    <div class="fixed inset-0 bg-ground/80" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center pt-24">
      <DialogPanel class="w-[400px] border border-ink bg-paper p-5">
        <DialogTitle class="mb-1 text-base font-semibold">Your session has ended</DialogTitle>
        <p class="mb-4 text-soft">What is on screen stays there. Sign in again to go on.</p>
        <EntryForm />
      </DialogPanel>
    </div>
  </Dialog>
</template>
