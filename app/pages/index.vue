<script setup lang="ts">
import { failureText } from '~/api/failure-text'

/** The way in: to the estate last looked at, else the first, else to bringing one in. */
const estate = useEstate()
const router = useRouter()
const failure = ref('')

async function enter(): Promise<void> {
  failure.value = ''
  try {
    const slug = await estate.lastOrFirst()
    await router.replace(slug === null ? '/bring-in' : `/${slug}/head/exits`)
  } catch (error) {
    failure.value = failureText(error)
  }
}
onMounted(enter)
</script>

<template>
  <main class="p-10">
    <h1 class="mb-2 text-lg font-semibold">Salt Trail</h1>
    <div v-if="failure" role="alert">
      <p class="mb-4 text-soft">{{ failure }}</p>
      <button type="button" class="action action-main" @click="enter">Try again</button>
    </div>
    <p v-else role="status" class="text-soft">Opening …</p>
  </main>
</template>
