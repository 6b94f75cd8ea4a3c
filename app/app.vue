<script setup lang="ts">
import { provideUseId } from '@headlessui/vue'
import { useId } from 'vue'

provideUseId(() => useId())
useAccount().applyTheme()
</script>

<template>
  <NuxtPage />
  <SignInAgain />
</template>
