<script setup lang="ts">
import type { Link, ListedAccount } from '~/api/answers'
import { useActing } from './useActing'

/** Everybody who may enter; invited by a link that is used once. */
const account = useAccount()
const all = ref<ListedAccount[] | null>(null)
const login = ref('')
const name = ref('')
const isServerOwner = ref(false)
const link = shallowRef<(Link & { readonly for: string }) | null>(null)
const { failure, isBusy, act } = useActing()

const look = () =>
  act(async () => {
    all.value = await $fetch<ListedAccount[]>('/api/accounts')
  })
const invite = () =>
  act(async () => {
    const body = { login: login.value, name: name.value, isServerOwner: isServerOwner.value }
    const made = await $fetch<Link>('/api/accounts', { method: 'POST', body })
    link.value = { ...made, for: login.value }
    login.value = ''
    name.value = ''
    isServerOwner.value = false
    all.value = await $fetch<ListedAccount[]>('/api/accounts')
  })
const linkAgain = (one: ListedAccount) =>
  act(async () => {
    const made = await $fetch<Link>(`/api/accounts/${one.id}/link`, { method: 'POST', body: {} })
    link.value = { ...made, for: one.login }
  })
const change = (one: ListedAccount, body: object) =>
  act(async () => {
    all.value = await $fetch<ListedAccount[]>(`/api/accounts/${one.id}`, { method: 'PUT', body })
  })
onMounted(look)
const ACT = 'cursor-pointer border-b border-ink text-xs'
const FIELD = 'border-b border-rule bg-paper py-0.5'
</script>

<template>
  <div class="max-w-[980px]">
    <table v-if="all" class="mb-4 w-full">
      <thead class="text-left text-xs text-soft">
        <tr>
          <th class="py-1 font-normal">login</th>
          <th class="font-normal">name</th>
          <th class="font-normal">is</th>
          <th class="font-normal">last seen</th>
          <th><span class="sr-only">what can be done</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in all" :key="one.id" class="border-t border-hair">
          <td class="py-1" :class="one.isDisabled ? 'text-soft line-through' : ''">
            {{ one.login }}
          </td>
          <td>{{ one.name }}</td>
          <td class="text-soft">
            {{
              one.isDisabled
                ? 'not let in'
                : one.isServerOwner
                  ? 'owner of the server'
                  : one.isInvited
                    ? 'invited'
                    : ''
            }}
          </td>
          <td>{{ one.seenAt ? when(one.seenAt) : 'never' }}</td>
          <td class="text-right whitespace-nowrap">
            <button
              v-if="!one.isLocal"
              type="button"
              class="mr-4"
              :class="ACT"
              @click="linkAgain(one)"
            >
              link to set a password
            </button>
            <template v-if="one.id !== account.account?.id">
              <button
                type="button"
                class="mr-4"
                :class="ACT"
                @click="change(one, { isServerOwner: !one.isServerOwner })"
              >
                {{ one.isServerOwner ? 'no owner any more' : 'make owner' }}
              </button>
              <button
                type="button"
                :class="ACT"
                @click="change(one, { isDisabled: !one.isDisabled })"
              >
                {{ one.isDisabled ? 'let in' : 'do not let in' }}
              </button>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="link" role="status" class="mb-4 border border-ink p-3">
      <p class="mb-1">
        Send this link to {{ link.for }}. It works once, until {{ link.endsAt.slice(0, 10) }}, and
        is told this once.
      </p>
      <p class="mono break-all select-all">{{ link.link }}</p>
    </div>
    <form class="flex flex-wrap items-end gap-4" @submit.prevent="invite">
      <label>
        <span class="block text-xs text-soft">Login, such as an e-mail address</span>
        <input v-model.trim="login" class="w-56" :class="FIELD" maxlength="200" required />
      </label>
      <label>
        <span class="block text-xs text-soft">Name</span>
        <input v-model.trim="name" class="w-44" :class="FIELD" maxlength="200" required />
      </label>
      <label class="flex items-center gap-1.5">
        <input v-model="isServerOwner" type="checkbox" /> owns the server
      </label>
      <button type="submit" class="action action-main" :disabled="isBusy">Invite</button>
    </form>
    <p v-if="failure" role="alert" class="mt-3 text-leak">{{ failure }}</p>
  </div>
</template>
