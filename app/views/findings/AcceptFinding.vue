<script setup lang="ts">
import type { Acceptance, ListedFinding } from '~/api/answers'

/**
 * Accepts a finding, or its root cause with whatever joins it, with an author, a reason and an end
 * date. What is accepted stays visible as accepted.
 */
const props = defineProps<{
  accepted: ListedFinding['accepted']
  /** The fingerprint of the finding, or of the root cause itself. */
  of: string
  rootCause: string
  failure: string | null
}>()
const emit = defineEmits<{ accept: [fingerprint: string, acceptance: Acceptance | null] }>()
const account = useAccount()
const isOpen = ref(false)
const reason = ref('')
const until = ref('')
const isWhole = ref(false)
const isOfRootCause = computed(() => props.of === props.rootCause)
watch(
  () => props.of,
  () => {
    isOpen.value = false
    reason.value = ''
    until.value = ''
    isWhole.value = false
  },
)
const today = new Date().toISOString().slice(0, 10)
const ready = computed(() => reason.value.trim() !== '')
function accept(): void {
  if (!ready.value) return
  emit('accept', isWhole.value ? props.rootCause : props.of, {
    reason: reason.value.trim(),
    until: until.value || null,
  })
}
</script>

<template>
  <div class="border-t border-rule pt-3">
    <template v-if="accepted">
      <p>
        {{ accepted.fingerprint === rootCause ? 'Its root cause is accepted' : 'Accepted' }} by
        {{ accepted.author }}{{ accepted.until ? ` until ${accepted.until}` : '' }}:
        {{ accepted.reason }}
      </p>
      <button
        type="button"
        class="mt-2 cursor-pointer border-b border-ink text-xs"
        @click="emit('accept', accepted.fingerprint, null)"
      >
        withdraw the acceptance
      </button>
    </template>
    <button
      v-else-if="!isOpen"
      type="button"
      class="cursor-pointer border-b border-ink text-xs"
      @click="isOpen = true"
    >
      live with it, and say why
    </button>
    <form v-else class="flex flex-col gap-3" @submit.prevent="accept">
      <label class="flex flex-col gap-1 text-xs text-soft"
        >why this is lived with
        <textarea
          v-model="reason"
          rows="3"
          maxlength="2000"
          required
          class="border border-rule bg-ground px-2 py-1 text-sm text-ink"
        />
      </label>
      <div class="flex gap-4">
        <p class="flex flex-1 flex-col gap-1 text-xs text-soft">
          by <span class="py-0.5 text-sm text-ink">{{ account.name }}</span>
        </p>
        <label class="flex flex-col gap-1 text-xs text-soft"
          >until (or for good)
          <input
            v-model="until"
            type="date"
            :min="today"
            class="border-b border-rule bg-paper px-1 py-0.5 text-sm text-ink"
          />
        </label>
      </div>
      <label v-if="!isOfRootCause" class="flex items-center gap-1.5 text-xs text-soft">
        <input v-model="isWhole" type="checkbox" />
        for its root cause, with whatever joins it
      </label>
      <p v-else class="text-xs text-soft">It holds for whatever joins this root cause, too.</p>
      <div class="flex gap-2">
        <button type="submit" class="action action-main" :disabled="!ready">Accept</button>
        <button type="button" class="action" @click="isOpen = false">Cancel</button>
      </div>
    </form>
    <p v-if="failure" role="alert" class="mt-2 text-leak">{{ failure }}</p>
  </div>
</template>
