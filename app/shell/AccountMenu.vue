<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import {
  Popover,
  PopoverButton,
  PopoverPanel,
  RadioGroup,
  RadioGroupLabel,
  RadioGroupOption,
} from '@headlessui/vue'

const account = useAccount()
const router = useRouter()
async function leave(): Promise<void> {
  await account.leave()
  await router.push('/sign-in')
}
const pathLeft = useLocalStorage('salt-trail.path-left', false)
const THEMES = ['system', 'light', 'dark'] as const
</script>

<template>
  <Popover class="relative w-[150px] shrink-0 px-4 text-right max-lg:w-[92px]">
    <PopoverButton class="max-w-full cursor-pointer truncate text-xs text-soft hover:text-ink">{{
      account.name || 'Not signed in'
    }}</PopoverButton>
    <PopoverPanel class="absolute top-8 right-4 z-30 w-64 border border-ink bg-paper p-3 text-left">
      <p class="mb-3">
        <span class="block font-semibold">{{ account.name }}</span>
        <NuxtLink to="/account" class="mr-4 border-b border-ink text-xs"
          >account and access</NuxtLink
        >
        <button type="button" class="cursor-pointer border-b border-ink text-xs" @click="leave">
          sign out
        </button>
      </p>
      <RadioGroup v-model="account.theme">
        <RadioGroupLabel class="block text-xs text-soft">Light</RadioGroupLabel>
        <div class="mt-1 flex gap-4">
          <RadioGroupOption
            v-for="theme in THEMES"
            :key="theme"
            v-slot="{ checked }"
            :value="theme"
            class="cursor-pointer"
          >
            <span :class="checked ? 'border-b-2 border-ink font-semibold' : 'text-soft'">{{
              theme === 'system' ? 'as the system' : theme
            }}</span>
          </RadioGroupOption>
        </div>
      </RadioGroup>
      <button
        v-if="pathLeft"
        type="button"
        class="mt-3 cursor-pointer border-b border-rule text-xs text-soft"
        @click="pathLeft = false"
      >
        Offer the path through the demo again
      </button>
    </PopoverPanel>
  </Popover>
</template>
