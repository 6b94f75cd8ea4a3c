<script setup lang="ts">
import type { NuxtError } from '#app'

defineProps<{ error: NuxtError }>()
</script>

<template>
  <main class="mx-auto max-w-xl p-10">
    <h1 class="mb-2 text-lg font-semibold">
      {{
        error.statusCode === 404 ? 'There is nothing at this address' : 'Something went wrong here'
      }}
    </h1>
    <p class="mb-4 text-soft">{{ error.message }}</p>
    <button type="button" class="action action-main" @click="clearError({ redirect: '/' })">
      To the estates
    </button>
  </main>
</template>
