<script setup lang="ts">
/**
 * Addresses from both sides: as whom the far side sees the subnets, and what the networks' space is
 * carved into.
 */
const estate = useEstate()
useHead({ title: computed(() => `Addresses, ${estate.outline?.name ?? 'Salt Trail'}`) })
const HALVES = [
  { half: 'seen', title: 'seen as' },
  { half: 'space', title: 'space' },
] as const
const half = choiceInAddress('half', 'push', ['seen', 'space'], 'seen')
const to = textInAddress('to', 'push', 'internet')
</script>

<template>
  <AppShell :keys="[]">
    <div v-if="estate.outline" class="flex h-full flex-col">
      <h1 class="sr-only">Addresses of {{ estate.outline.name }}</h1>
      <div class="toolbar border-b border-rule">
        <button
          v-for="one in HALVES"
          :key="one.half"
          type="button"
          class="cursor-pointer"
          :class="half === one.half ? 'font-semibold' : 'text-soft'"
          :aria-pressed="half === one.half"
          @click="half = one.half"
        >
          {{ one.title }}
        </button>
      </div>
      <SeenAs
        v-if="half === 'seen'"
        :key="estate.base"
        :to="to"
        class="min-h-0 flex-1"
        @choose="to = $event"
      />
      <AddressSpace v-else class="min-h-0 flex-1" />
    </div>
    <LoadState v-else />
  </AppShell>
</template>
