<script setup lang="ts">
import type { Acceptance, ListedFinding } from '~/api/answers'

/**
 * Accepts a finding, with an author, a reason and an end date. An accepted finding stays visible as
 * accepted.
 */
const props = defineProps<{ finding: ListedFinding; failure: string | null }>()
const emit = defineEmits<{ accept: [acceptance: Acceptance]; 'take-back': [] }>()
const account = useAccount()
const isOpen = ref(false)
const reason = ref('')
const until = ref('')
watch(
  () => props.finding.fingerprint,
  () => {
    isOpen.value = false
    reason.value = ''
    until.value = ''
  },
)
const today = new Date().toISOString().slice(0, 10)
const ready = computed(() => reason.value.trim() !== '' && account.name.trim() !== '')
</script>

<template>
  <div class="border-t border-rule pt-3">
    <template v-if="finding.accepted">
      <p>
        Accepted by {{ finding.accepted.author
        }}{{ finding.accepted.until ? ` until ${finding.accepted.until}` : '' }}:
        {{ finding.accepted.reason }}
      </p>
      <button
        type="button"
        class="mt-2 cursor-pointer border-b border-ink text-xs"
        @click="emit('take-back')"
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
    <form
      v-else
      class="flex flex-col gap-3"
      @submit.prevent="
        ready &&
        emit('accept', { reason: reason.trim(), author: account.name.trim(), until: until || null })
      "
    >
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
        <label class="flex flex-1 flex-col gap-1 text-xs text-soft"
          >your name
          <input
            v-model="account.name"
            maxlength="200"
            required
            class="border-b border-rule bg-paper px-1 py-0.5 text-sm text-ink"
          />
        </label>
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
      <div class="flex gap-2">
        <button type="submit" class="action action-main" :disabled="!ready">Accept</button>
        <button type="button" class="action" @click="isOpen = false">Cancel</button>
      </div>
    </form>
    <p v-if="failure" role="alert" class="mt-2 text-leak">{{ failure }}</p>
  </div>
</template>
