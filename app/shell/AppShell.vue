<script setup lang="ts">
import type { KeyHint } from './StatusLine.vue'

/** The shape of every page: question bar, views, the view, status line. */
withDefaults(defineProps<{ said?: string; keys?: readonly KeyHint[] }>(), {
  said: undefined,
  keys: () => [],
})
const estate = useEstate()
// A page of no estate, opened anew, keeps the one looked at last within reach.
onMounted(async () => {
  if (estate.slug !== null || useRoute().params.estate) return
  const slug = await estate.lastOrFirst().catch(() => null)
  if (slug !== null && estate.slug === null) await estate.show(slug, 'head')
})
const draft = useDraft()
const { world } = useWorld()
const dialog = ref<{ show: () => void } | null>(null)
</script>

<template>
  <div
    class="app-shell grid h-full"
    :class="
      draft.draft
        ? 'grid-rows-[46px_28px_34px_minmax(0,1fr)_auto_26px]'
        : 'grid-rows-[46px_34px_minmax(0,1fr)_auto_26px]'
    "
  >
    <header
      class="flex items-center border-b border-rule"
      :class="
        world === 'draft' || world === 'difference'
          ? 'bg-draft-wash [--faint:var(--soft)]'
          : 'bg-paper'
      "
    >
      <EstateName />
      <QuestionBar />
      <AccountMenu />
    </header>
    <DraftBand />
    <ViewsRow />
    <main class="min-h-0 overflow-hidden"><slot /></main>
    <div><GuidePath /></div>
    <StatusLine :said="said" :keys="keys" @all-keys="dialog?.show()" />
    <KeysDialog ref="dialog" :keys="keys" />
  </div>
</template>
