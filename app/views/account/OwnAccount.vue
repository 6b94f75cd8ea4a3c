<script setup lang="ts">
import type { OwnAccount } from '~/api/answers'
import { LEAST_PASSWORD } from '~~/contract/access'
import { useActing } from './useActing'

/** The name that revisions are signed with, the password, sessions and tokens. */
const account = useAccount()
const own = shallowRef<OwnAccount | null>(null)
const name = ref(account.name)
const old = ref('')
const password = ref('')
const done = ref('')
const { failure, isBusy, act } = useActing()

const look = () =>
  act(async () => {
    own.value = await $fetch<OwnAccount>('/api/account')
  })
const rename = () =>
  act(async () => {
    await $fetch('/api/account', { method: 'PUT', body: { name: name.value } })
    await account.look()
    done.value = `You sign as ${account.name} from now on.`
  })
const setPassword = () =>
  act(async () => {
    const { ended } = await $fetch<{ ended: number }>('/api/account/password', {
      method: 'PUT',
      body: { old: old.value, password: password.value },
    })
    old.value = ''
    password.value = ''
    done.value = `The password is changed; other sessions that ended: ${ended}.`
    await look()
  })
const end = (path: string) =>
  act(async () => {
    await $fetch(path, { method: 'DELETE' })
    own.value = await $fetch<OwnAccount>('/api/account')
  })
onMounted(look)
const FIELD = 'border-b border-ink bg-transparent py-0.5'
</script>

<template>
  <div class="flex max-w-[860px] flex-col gap-7">
    <p v-if="failure" role="alert" class="text-leak">{{ failure }}</p>
    <p v-else-if="done" role="status">{{ done }}</p>
    <form class="flex items-end gap-3" @submit.prevent="rename">
      <label class="flex-1">
        <span class="block text-xs text-soft">Name that your revisions are signed with</span>
        <input
          v-model.trim="name"
          class="w-full"
          :class="FIELD"
          maxlength="200"
          autocomplete="name"
        />
      </label>
      <button
        type="submit"
        class="action"
        :disabled="isBusy || name === '' || name === account.name"
      >
        Sign so from now on
      </button>
    </form>
    <form v-if="own?.hasPassword" class="flex items-end gap-3" @submit.prevent="setPassword">
      <label class="flex-1">
        <span class="block text-xs text-soft">Your password</span>
        <input
          v-model="old"
          class="w-full"
          :class="FIELD"
          type="password"
          autocomplete="current-password"
        />
      </label>
      <label class="flex-1">
        <span class="block text-xs text-soft"
          >Another, of at least {{ LEAST_PASSWORD }} characters</span
        >
        <input
          v-model="password"
          class="w-full"
          :class="FIELD"
          type="password"
          autocomplete="new-password"
        />
      </label>
      <button
        type="submit"
        class="action"
        :disabled="isBusy || old === '' || password.length < LEAST_PASSWORD"
      >
        Change it, and end other sessions
      </button>
    </form>
    <section v-if="own" aria-labelledby="sessions">
      <h2 id="sessions" class="mb-2 font-semibold">Sessions</h2>
      <table class="w-full">
        <thead class="text-left text-xs text-soft">
          <tr>
            <th class="py-1 font-normal">begun</th>
            <th class="font-normal">last used</th>
            <th class="font-normal">ends</th>
            <th class="font-normal">browser</th>
            <th><span class="sr-only">what can be done</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in own.sessions" :key="one.id" class="border-t border-hair">
            <td class="py-1 whitespace-nowrap">{{ when(one.createdAt) }}</td>
            <td class="whitespace-nowrap">{{ when(one.seenAt) }}</td>
            <td class="whitespace-nowrap">{{ one.endsAt.slice(0, 10) }}</td>
            <td class="max-w-0 truncate text-soft" :title="one.agent">{{ one.agent }}</td>
            <td class="text-right whitespace-nowrap">
              <span v-if="one.isThis" class="text-soft">this one</span>
              <button
                v-else
                type="button"
                class="cursor-pointer border-b border-ink text-xs"
                @click="end(`/api/account/sessions/${one.id}`)"
              >
                end it
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <button
        v-if="own.sessions.length > 1"
        type="button"
        class="action mt-2"
        @click="end('/api/account/sessions')"
      >
        End all but this one
      </button>
    </section>
    <OwnTokens
      v-if="own"
      :tokens="own.tokens"
      @end="(id) => end(`/api/account/tokens/${id}`)"
      @made="look"
    />
  </div>
</template>
