<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import { RadioGroup, RadioGroupLabel, RadioGroupOption } from '@headlessui/vue'
import type { World } from '~/composables/useWorld'

/** Which draft is open, and for which of the worlds the views answer. */
const WORLDS: readonly World[] = ['draft', 'base', 'difference']
const draft = useDraft()
const router = useRouter()
const estate = useEstate()
const { world, go } = useWorld()

const shown = computed({
  get: () => world.value ?? 'base',
  set: (to: World) => go(to),
})
const counted = computed(() => {
  const standing = draft.draft?.changes.filter(({ stands }) => stands).length ?? 0
  return standing === 1 ? '1 change' : `${standing} changes`
})
const behind = computed(() => (draft.draft ? draft.draft.head - draft.draft.base : 0))

function close(): void {
  const base = draft.draft?.base
  const onDraft = world.value !== 'base'
  draft.close()
  if (onDraft) void router.push(`/${estate.slug}/${base ?? 'head'}/exits`)
}
onKeyStroke('d', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return
  if (world.value !== null) go(WORLDS[(WORLDS.indexOf(world.value) + 1) % WORLDS.length]!)
})
</script>

<template>
  <section
    v-if="draft.draft"
    aria-label="The open draft"
    class="flex items-center gap-4 overflow-hidden border-b border-draft bg-draft-wash px-4 text-xs whitespace-nowrap"
  >
    <NuxtLink
      :to="`/${estate.slug}/draft-${draft.id}/draft`"
      class="min-w-0 truncate font-semibold text-draft"
      >{{ draft.draft.kind === 'outage' ? 'Outage' : 'Draft' }}: {{ draft.draft.name }}</NuxtLink
    >
    <span>{{ counted }} to revision {{ draft.draft.base }}</span>
    <span v-if="behind > 0" class="max-lg:hidden"
      >{{ behind }} behind the newest;
      <button type="button" class="cursor-pointer underline" @click="draft.rebase()">
        put it on revision {{ draft.draft.head }}
      </button></span
    >
    <RadioGroup v-model="shown" class="ml-auto flex items-center gap-3">
      <RadioGroupLabel as="span" class="text-soft">the views show</RadioGroupLabel>
      <RadioGroupOption
        v-for="one in WORLDS"
        :key="one"
        v-slot="{ checked }"
        :value="one"
        class="cursor-pointer"
      >
        <span :class="checked ? 'border-b-2 border-draft font-semibold text-draft' : 'text-soft'"
          >the {{ one }}</span
        >
      </RadioGroupOption>
    </RadioGroup>
    <button type="button" class="cursor-pointer text-soft hover:text-ink" @click="close">
      close the draft
    </button>
  </section>
</template>
