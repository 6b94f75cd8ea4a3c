<script setup lang="ts">
/**
 * Addresses from both sides: as whom the far side sees the subnets, and what the networks' space is
 * carved into.
 */
const estate = useEstate()
const route = useRoute()
useHead({ title: computed(() => `Addresses, ${estate.outline?.name ?? 'Salt Trail'}`) })
const HALVES = [
  { half: 'seen', title: 'seen as' },
  { half: 'space', title: 'space' },
] as const
const half = computed(() => (route.query.half === 'space' ? 'space' : 'seen'))
const to = computed(() =>
  typeof route.query.to === 'string' && route.query.to !== '' ? route.query.to : 'internet',
)
const choose = (query: Record<string, string | undefined>): void =>
  void navigateTo({ query: { ...route.query, ...query } })
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
          @click="choose({ half: one.half === 'seen' ? undefined : one.half })"
        >
          {{ one.title }}
        </button>
      </div>
      <SeenAs
        v-if="half === 'seen'"
        :key="estate.base"
        :to="to"
        class="min-h-0 flex-1"
        @choose="choose({ to: $event })"
      />
      <AddressSpace v-else class="min-h-0 flex-1" />
    </div>
    <LoadState v-else />
  </AppShell>
</template>
