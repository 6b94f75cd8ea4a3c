<script setup lang="ts">
import type { Session } from '~/api/answers'
import { failureText } from '~/api/failure-text'
import { LEAST_PASSWORD } from '~~/contract/access'

/** Takes an invitation. Its secret stands behind the number sign of the address, and is taken out of it. */
const account = useAccount()
const router = useRouter()
const invitation = ref('')
const given = shallowRef<{ login: string | null; name: string | null } | null>(null)
const login = ref('')
const name = ref('')
const password = ref('')
const failure = ref('')
const isBusy = ref(false)
const isShort = computed(() => password.value.length < LEAST_PASSWORD)

async function told(work: () => Promise<void>): Promise<void> {
  isBusy.value = true
  failure.value = ''
  try {
    await work()
  } catch (error) {
    failure.value = failureText(error)
  } finally {
    isBusy.value = false
  }
}
const read = () =>
  told(async () => {
    const found = await $fetch<{ login: string | null; name: string | null }>(
      '/api/invitations/read',
      { method: 'POST', body: { invitation: invitation.value } },
    )
    given.value = found
    login.value = found.login ?? ''
    name.value = found.name ?? ''
  })
const join = () =>
  told(async () => {
    const body = {
      ...{ invitation: invitation.value, login: login.value },
      ...{ name: name.value, password: password.value },
    }
    account.enter(await $fetch<Session>('/api/invitations/use', { method: 'POST', body }))
    await router.replace('/')
  })
onMounted(() => {
  invitation.value = window.location.hash.slice(1)
  window.history.replaceState(window.history.state, '', window.location.pathname)
  if (invitation.value.length < 20) failure.value = 'This address is no whole link.'
  else void read()
})
const FIELD = 'mt-1 w-full border-b border-ink bg-transparent py-1'
</script>

<template>
  <main class="mx-auto w-[400px] max-w-full p-6 pt-24">
    <h1 class="text-lg font-semibold">Salt Trail</h1>
    <template v-if="given">
      <p class="mb-6 text-soft">
        {{
          given.login
            ? 'You are invited. Set a password, and you are in.'
            : 'Nobody has an account here yet. Yours owns the server: it invites others.'
        }}
      </p>
      <form @submit.prevent="join">
        <label class="mb-3 block">
          <span class="block text-xs text-soft">Login</span>
          <input
            v-model.trim="login"
            :class="FIELD"
            :readonly="given.login !== null"
            autocomplete="username"
            maxlength="200"
            required
          />
        </label>
        <label class="mb-3 block">
          <span class="block text-xs text-soft">Name that your revisions are signed with</span>
          <input v-model.trim="name" :class="FIELD" autocomplete="name" maxlength="200" required />
        </label>
        <label class="mb-4 block">
          <span class="block text-xs text-soft"
            >Password, of at least {{ LEAST_PASSWORD }} characters</span
          >
          <input
            v-model="password"
            :class="FIELD"
            type="password"
            autocomplete="new-password"
            maxlength="500"
            required
          />
        </label>
        <button type="submit" class="action action-main" :disabled="isBusy || isShort">
          Set the password and enter
        </button>
        <span v-if="password !== '' && isShort" class="ml-3 text-xs text-soft"
          >{{ LEAST_PASSWORD - password.length }} more</span
        >
      </form>
    </template>
    <p v-else-if="!failure" role="status" class="text-soft">Reading the invitation …</p>
    <p v-if="failure" role="alert" class="mt-4 text-leak">{{ failure }}</p>
  </main>
</template>
