<script setup lang="ts">
/** One's own account, and, for owners, who may enter, who may do what, and what was changed. */
const account = useAccount()
const estate = useEstate()
const PARTS = ['you', 'estate', 'people', 'record'] as const
type Part = (typeof PARTS)[number]
const show = choiceInAddress('show', 'push', PARTS, 'you')
const titles = computed<Record<Part, string>>(() => ({
  you: 'Your account',
  estate: estate.outline ? `People of ${estate.outline.name}` : 'People of an estate',
  people: 'Everybody who may enter',
  record: 'Record of changes',
}))
const ownsEstate = computed(() => estate.outline?.role === 'owner')
const parts = computed(() =>
  PARTS.filter((part) => {
    if (part === 'you') return true
    if (part === 'estate') return ownsEstate.value
    if (part === 'people') return account.account?.isServerOwner === true
    return account.account?.isServerOwner === true || ownsEstate.value
  }),
)
const shown = computed<Part>(() => parts.value.find((part) => part === show.value) ?? 'you')
</script>

<template>
  <AppShell>
    <div class="grid h-full grid-cols-[230px_minmax(0,1fr)]">
      <nav aria-label="Account and access" class="border-r border-rule bg-paper py-3">
        <button
          v-for="part in parts"
          :key="part"
          type="button"
          class="block w-full cursor-pointer truncate border-l-[3px] px-4 py-1.5 text-left"
          :class="
            shown === part
              ? 'border-ink font-semibold'
              : 'border-transparent text-soft hover:text-ink'
          "
          :aria-current="shown === part ? 'page' : undefined"
          @click="show = part"
        >
          {{ titles[part] }}
        </button>
      </nav>
      <section class="min-w-0 overflow-y-auto px-6 py-4" :aria-label="titles[shown]" tabindex="0">
        <h1 class="mb-4 text-base font-semibold">{{ titles[shown] }}</h1>
        <OwnAccount v-if="shown === 'you'" />
        <EstatePeople v-else-if="shown === 'estate'" :key="estate.slug ?? ''" />
        <AccountList v-else-if="shown === 'people'" />
        <ChangeRecord v-else :of-estate="account.account?.isServerOwner ? null : estate.slug" />
      </section>
    </div>
  </AppShell>
</template>
