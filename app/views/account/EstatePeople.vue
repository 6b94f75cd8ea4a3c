<script setup lang="ts">
import type { Person, Role } from '~/api/answers'
import { useActing } from './useActing'

/** Who may do what with the estate on screen. */
const estate = useEstate()
const people = ref<Person[] | null>(null)
const login = ref('')
const role = ref<Role>('reader')
const { failure, isBusy, act } = useActing()
const path = computed(() => `/api/estates/${estate.slug}/people`)
const MAY: Readonly<Record<Role, string>> = {
  reader: 'looks at all of it',
  editor: 'also drafts, saves, accepts, brings in',
  owner: 'also gives roles and deletes',
}
const at = (one: string): string => `${path.value}/${encodeURIComponent(one)}`
const look = () =>
  act(async () => {
    people.value = await $fetch<Person[]>(path.value)
  })
async function give(to: string, wanted: Role): Promise<void> {
  const isGiven = await act(async () => {
    people.value = await $fetch<Person[]>(at(to), { method: 'PUT', body: { role: wanted } })
  })
  // A role that was not given is not shown as if it was.
  if (isGiven) login.value = ''
  else people.value = [...(people.value ?? [])]
}
const take = (from: string) =>
  act(async () => {
    people.value = await $fetch<Person[]>(at(from), { method: 'DELETE' })
  })
onMounted(look)
</script>

<template>
  <div class="max-w-[860px]">
    <p class="mb-3 text-xs text-soft">
      Owners of the server may do everything with every estate; they are not listed here unless they
      have a role of their own.
    </p>
    <table v-if="people && people.length > 0" class="mb-4 w-full">
      <thead class="text-left text-xs text-soft">
        <tr>
          <th class="py-1 font-normal">login</th>
          <th class="font-normal">name</th>
          <th class="font-normal">role</th>
          <th><span class="sr-only">what can be done</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in people" :key="one.login" class="border-t border-hair">
          <td class="py-1">{{ one.login }}</td>
          <td>{{ one.name }}</td>
          <td>
            <select
              :value="one.role"
              :aria-label="`Role of ${one.login}`"
              class="border-b border-rule bg-paper py-0.5"
              @change="give(one.login, ($event.target as HTMLSelectElement).value as Role)"
            >
              <option v-for="(words, each) in MAY" :key="each" :value="each">
                {{ each }}: {{ words }}
              </option>
            </select>
          </td>
          <td class="text-right">
            <button
              type="button"
              class="cursor-pointer border-b border-ink text-xs"
              @click="take(one.login)"
            >
              take it away
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="people" class="mb-4 text-soft">Nobody has a role of his own for it yet.</p>
    <form class="flex flex-wrap items-end gap-4" @submit.prevent="give(login, role)">
      <label>
        <span class="block text-xs text-soft">Login of somebody who has an account</span>
        <input
          v-model.trim="login"
          class="w-64 border-b border-rule bg-paper py-0.5"
          maxlength="200"
          autocomplete="off"
          required
        />
      </label>
      <label>
        <span class="block text-xs text-soft">Role</span>
        <select v-model="role" class="border-b border-rule bg-paper py-0.5">
          <option v-for="(words, each) in MAY" :key="each" :value="each">
            {{ each }}: {{ words }}
          </option>
        </select>
      </label>
      <button type="submit" class="action action-main" :disabled="isBusy || login === ''">
        Give the role
      </button>
    </form>
    <p v-if="failure" role="alert" class="mt-3 text-leak">{{ failure }}</p>
  </div>
</template>
