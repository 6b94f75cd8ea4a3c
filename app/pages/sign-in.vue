<script setup lang="ts">
import { failureText } from '~/api/failure-text'

/** Where one enters; then on to where one wanted to be. */
const account = useAccount()
const route = useRoute()
const router = useRouter()
const failure = ref('')

/** A place of this application alone: a link must not lead elsewhere. */
const returnTo = computed(() => {
  const to = String(route.query.to ?? '/')
  return /^\/(?![/\\])/.test(to) ? to : '/'
})
const refused = computed(() => String(route.query.refused ?? ''))
async function look(): Promise<void> {
  failure.value = ''
  try {
    await account.look()
    if (account.account) await router.replace(returnTo.value)
  } catch (error) {
    failure.value = failureText(error)
  }
}
onMounted(look)
</script>

<template>
  <main class="mx-auto w-[400px] max-w-full p-6 pt-24">
    <h1 class="text-lg font-semibold">Salt Trail</h1>
    <p class="mb-8 text-soft">Where every subnet’s packets go, and why.</p>
    <div v-if="failure" role="alert">
      <p class="mb-4 text-soft">{{ failure }}</p>
      <button type="button" class="action action-main" @click="look">Try again</button>
    </div>
    <p v-else-if="!account.session" role="status" class="text-soft">Opening …</p>
    <EntryForm v-else :return-to="returnTo" @entered="router.replace(returnTo)" />
    <p v-if="refused === 'uninvited'" role="alert" class="mt-4 text-leak">
      The provider knows you, but nobody has invited you here.
    </p>
    <p v-else-if="refused" role="alert" class="mt-4 text-leak">
      The sign-in provider did not let you in; try again.
    </p>
  </main>
</template>
