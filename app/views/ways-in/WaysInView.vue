<script setup lang="ts">
/**
 * Who can get in: what the whole estate exposes to the outside, which networks can talk on what,
 * and who reaches the hosts of one subnet.
 */
const estate = useEstate()
const subnet = textInAddress('subnet', 'push')
const shows = choiceInAddress('show', 'push', ['outside', 'networks'], 'outside')
const selectedSubnet = useSelectedSubnet()
useHead({ title: computed(() => `Ways in, ${estate.outline?.name ?? 'Salt Trail'}`) })
const part = computed(() => (subnet.value !== '' ? 'subnet' : shows.value))
const subnetMeant = computed(() => {
  const subnets = estate.outline?.subnets ?? []
  const named = subnets.find(({ id }) => id === selectedSubnet.value) ?? subnets[0]
  return named?.id ?? ''
})
const PARTS = computed(() => [
  { name: 'outside', title: 'from outside', query: {} },
  { name: 'networks', title: 'among networks', query: { show: 'networks' } },
  { name: 'subnet', title: 'into one subnet', query: { subnet: subnetMeant.value } },
])
</script>

<template>
  <AppShell :keys="[]">
    <div v-if="estate.outline" class="flex h-full flex-col">
      <h1 class="sr-only">Ways in</h1>
      <nav class="flex h-9 shrink-0 items-center gap-5 px-4" aria-label="Ways in">
        <NuxtLink
          v-for="one in PARTS"
          :key="one.name"
          :to="{ query: one.query }"
          class="py-0.5"
          :class="part === one.name ? 'border-b-2 border-ink font-semibold' : 'text-soft'"
          :aria-current="part === one.name ? 'page' : undefined"
          >{{ one.title }}</NuxtLink
        >
      </nav>
      <p v-if="estate.outline.subnets.length === 0" class="p-4 text-soft">
        This estate has no subnets yet, so there is nothing to get into.
      </p>
      <SubnetWaysIn v-else-if="part === 'subnet'" />
      <TalksMatrix v-else-if="part === 'networks'" />
      <ExposedHosts v-else />
    </div>
    <LoadState v-else />
  </AppShell>
</template>
