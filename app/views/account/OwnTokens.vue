<script setup lang="ts">
import type { EstateInfo, NewToken, OwnAccount, Role } from '~/api/answers'
import { useActing } from './useActing'

/** What programs enter by: made here, told once, ended here or by itself. */
defineProps<{ tokens: OwnAccount['tokens'] }>()
const emit = defineEmits<{ end: [id: number]; made: [] }>()
const estates = ref<EstateInfo[]>([])
const name = ref('')
const role = ref<Role>('reader')
const estate = ref('')
const days = ref(90)
const made = shallowRef<NewToken | null>(null)
const { failure, isBusy, act } = useActing()

const MAY: Readonly<Record<Role, string>> = {
  reader: 'read',
  editor: 'read and edit',
  owner: 'all that I may',
}
const make = () =>
  act(async () => {
    made.value = await $fetch<NewToken>('/api/account/tokens', {
      method: 'POST',
      body: {
        ...{ name: name.value, role: role.value, days: days.value },
        estate: estate.value === '' ? null : estate.value,
      },
    })
    name.value = ''
    emit('made')
  })
onMounted(async () => {
  estates.value = await $fetch<EstateInfo[]>('/api/estates').catch(() => [])
})
const FIELD = 'border-b border-rule bg-paper py-0.5'
</script>

<template>
  <section aria-labelledby="tokens">
    <h2 id="tokens" class="mb-1 font-semibold">Tokens for programs</h2>
    <p class="mb-2 text-xs text-soft">
      A pipeline sends one as <span class="mono">Authorization: Bearer TOKEN</span>. It may no more
      than you may, and no more than is said here.
    </p>
    <table v-if="tokens.length > 0" class="mb-3 w-full">
      <thead class="text-left text-xs text-soft">
        <tr>
          <th class="py-1 font-normal">name</th>
          <th class="font-normal">may</th>
          <th class="font-normal">estate</th>
          <th class="font-normal">last used</th>
          <th class="font-normal">ends</th>
          <th><span class="sr-only">what can be done</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in tokens" :key="one.id" class="border-t border-hair">
          <td class="py-1">{{ one.name }}</td>
          <td>{{ MAY[one.role] }}</td>
          <td>{{ one.estate ?? 'all of mine' }}</td>
          <td>{{ one.usedAt ? when(one.usedAt) : 'never' }}</td>
          <td>{{ one.endsAt.slice(0, 10) }}</td>
          <td class="text-right">
            <button
              type="button"
              class="cursor-pointer border-b border-ink text-xs"
              @click="emit('end', one.id)"
            >
              end it
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="made" role="status" class="mb-3 border border-ink p-3">
      <p class="mb-1">This is the token {{ made.name }}. It is told this once; keep it now.</p>
      <p class="mono break-all select-all">{{ made.token }}</p>
    </div>
    <form class="flex flex-wrap items-end gap-4" @submit.prevent="make">
      <label>
        <span class="block text-xs text-soft">Name</span>
        <input
          v-model.trim="name"
          class="w-44"
          :class="FIELD"
          placeholder="what it is for"
          maxlength="200"
          required
        />
      </label>
      <label>
        <span class="block text-xs text-soft">May</span>
        <select v-model="role" :class="FIELD">
          <option v-for="(words, one) in MAY" :key="one" :value="one">{{ words }}</option>
        </select>
      </label>
      <label>
        <span class="block text-xs text-soft">Estate</span>
        <select v-model="estate" class="max-w-48" :class="FIELD">
          <option value="">all of mine</option>
          <option v-for="one in estates" :key="one.slug" :value="one.slug">{{ one.name }}</option>
        </select>
      </label>
      <label>
        <span class="block text-xs text-soft">Days until it ends</span>
        <input
          v-model.number="days"
          class="w-16"
          :class="FIELD"
          type="number"
          min="1"
          max="366"
          required
        />
      </label>
      <button type="submit" class="action action-main" :disabled="isBusy || name === ''">
        Make a token
      </button>
    </form>
    <p v-if="failure" role="alert" class="mt-2 text-leak">{{ failure }}</p>
  </section>
</template>
