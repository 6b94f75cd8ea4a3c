<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { failureText } from '~/api/failure-text'

/** Renames the estate on screen, or deletes it once its name is typed. */
const estate = useEstate()
const router = useRouter()
const open = ref(false)
const name = ref('')
const typed = ref('')
const failure = ref('')
const isBusy = ref(false)
const known = computed(() => estate.outline?.name ?? '')

function show(): void {
  name.value = known.value
  typed.value = ''
  failure.value = ''
  open.value = true
}
async function act(work: () => Promise<void>): Promise<void> {
  isBusy.value = true
  failure.value = ''
  try {
    await work()
    open.value = false
  } catch (error) {
    failure.value = failureText(error)
  } finally {
    isBusy.value = false
  }
}
const rename = () =>
  act(async () => {
    await $fetch<unknown>(`/api/estates/${estate.slug}`, {
      method: 'PUT',
      body: { name: name.value.trim() },
    })
    await estate.show(estate.slug!, 'head', true)
    await router.push(`/${estate.slug}/head/revisions`)
  })
const remove = () =>
  act(async () => {
    await $fetch<unknown>(`/api/estates/${estate.slug}`, {
      method: 'DELETE',
      body: { name: typed.value },
    })
    estate.forget()
    await router.push('/')
  })
defineExpose({ show })
</script>

<template>
  <Dialog :open="open" class="relative z-40" @close="open = false">
    <div class="fixed inset-0 bg-ground/80" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center pt-24">
      <DialogPanel class="w-[460px] border border-ink bg-paper p-5">
        <DialogTitle class="mb-3 text-base font-semibold">{{ known }}</DialogTitle>
        <form class="mb-5" @submit.prevent="rename">
          <label class="mb-2 block">
            <span class="block text-xs text-soft">Its name; another one is a new revision</span>
            <input
              v-model="name"
              class="mt-1 w-full border-b border-ink bg-transparent py-1"
              maxlength="200"
            />
          </label>
          <button
            type="submit"
            class="action action-main"
            :disabled="isBusy || name.trim() === '' || name.trim() === known"
          >
            Rename it
          </button>
        </form>
        <form class="border-t border-rule pt-3" @submit.prevent="remove">
          <label class="mb-2 block">
            <span class="block text-xs text-soft"
              >To delete it with all its revisions and drafts, type its name</span
            >
            <input
              v-model="typed"
              class="mt-1 w-full border-b border-rule bg-transparent py-1"
              autocomplete="off"
            />
          </label>
          <button type="submit" class="action" :disabled="isBusy || typed !== known">
            Delete it for good
          </button>
        </form>
        <p v-if="failure" role="alert" class="mt-3 text-leak">{{ failure }}</p>
        <button type="button" class="action mt-4" @click="open = false">Close</button>
      </DialogPanel>
    </div>
  </Dialog>
</template>
