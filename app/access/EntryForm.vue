<script setup lang="ts">
import type { Session } from '~/api/answers'
import { failureText } from '~/api/failure-text'

/** The ways to enter that this server has: a password, a sign-in provider, one click. */
const emit = defineEmits<{ entered: [] }>()
const props = defineProps<{ returnTo?: string }>()
const account = useAccount()
const login = ref('')
const password = ref('')
const failure = ref('')
const isBusy = ref(false)
const entries = computed(() => account.session?.entries ?? null)
const providerLink = computed(
  () => `/sign-in/provider?to=${encodeURIComponent(props.returnTo ?? '/')}`,
)

async function enter(path: string, body: object): Promise<void> {
  isBusy.value = true
  failure.value = ''
  try {
    account.enter(await $fetch<Session>(path, { method: 'POST', body }))
    emit('entered')
  } catch (error) {
    failure.value = failureText(error)
  } finally {
    isBusy.value = false
    password.value = ''
  }
}
const FIELD = 'mt-1 w-full border-b border-ink bg-transparent py-1'
</script>

<template>
  <div v-if="entries">
    <div v-if="entries.local" class="mb-6">
      <button
        type="button"
        class="action action-main"
        :disabled="isBusy"
        @click="enter('/api/session/local', {})"
      >
        Enter as the owner of this machine’s server
      </button>
      <p class="mt-2 text-xs text-soft">
        No owner has an account yet, and you are at the machine that runs the server: one click is
        enough. The link that the server printed when it started makes an account with a password;
        from then on only who has one enters.
      </p>
    </div>
    <form v-if="entries.password" @submit.prevent="enter('/api/session', { login, password })">
      <label class="mb-3 block">
        <span class="block text-xs text-soft">Login</span>
        <input
          v-model.trim="login"
          :class="FIELD"
          autocomplete="username"
          maxlength="200"
          required
        />
      </label>
      <label class="mb-4 block">
        <span class="block text-xs text-soft">Password</span>
        <input
          v-model="password"
          :class="FIELD"
          type="password"
          autocomplete="current-password"
          maxlength="500"
          required
        />
      </label>
      <button type="submit" class="action action-main" :disabled="isBusy">
        {{ isBusy ? 'Signing in …' : 'Sign in' }}
      </button>
    </form>
    <p v-if="entries.provider" class="mt-4">
      <a class="action" :href="providerLink">Sign in by {{ entries.provider }}</a>
    </p>
    <p v-if="!entries.local && !entries.password && !entries.provider" class="text-soft">
      Nobody has an account yet. The link that the server printed when it started makes the first
      one.
    </p>
    <p v-if="failure" role="alert" class="mt-3 text-leak">{{ failure }}</p>
  </div>
</template>
