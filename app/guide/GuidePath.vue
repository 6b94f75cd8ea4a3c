<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import type { DraftInfo } from '~/api/answers'
import { STEPS, type Step } from '~/guide/path'

/**
 * A short path through the demo's faults, at the foot of the page; it can be left at any time and
 * does not come back by itself.
 */
const estate = useEstate()
const router = useRouter()
const draft = useDraft()
const { start, show } = useTry()
/** −1: not begun. */
const at = useLocalStorage('salt-trail.path', -1)
const isLeft = useLocalStorage('salt-trail.path-left', false)
const isDemo = computed(() => estate.outline?.revision.origin === 'demo')
const step = computed(() => STEPS[at.value] ?? null)
function go(to: number): void {
  at.value = to
  const next = STEPS[to]
  if (next?.draft) void tryOnce(next.draft)
  else if (next) void router.push({ path: `/${estate.slug}/head/${next.view}`, query: next.query })
}
/** The draft of a step: the one that is there by its name, else made now. */
async function tryOnce({ name, changes }: NonNullable<Step['draft']>): Promise<void> {
  const path = `/api/estates/${estate.slug}/drafts`
  const known = (await $fetch<DraftInfo[]>(path)).find((one) => one.name === name)
  if (known) draft.open(known.id)
  else {
    await router.push(`/${estate.slug}/head/draft`)
    draft.close()
    if (!(await start(name, 'change'))) return
    for (const [seen, { what, patch }] of changes.entries()) await draft.change(what, patch, seen)
  }
  await show()
}
function leave(): void {
  isLeft.value = true
  at.value = -1
}
</script>

<template>
  <section
    v-if="isDemo && !isLeft"
    class="flex items-start gap-5 border-t border-ink bg-wash px-4 py-2.5"
    aria-label="A short path through the demo"
  >
    <template v-if="step">
      <p class="shrink-0 text-xs leading-[18px] text-soft">{{ at + 1 }} of {{ STEPS.length }}</p>
      <div class="max-w-4xl" aria-live="polite">
        <h2 class="font-semibold">{{ step.title }}</h2>
        <p>{{ step.says }}</p>
      </div>
      <span class="ml-auto flex shrink-0 gap-2">
        <button v-if="at > 0" type="button" class="action" @click="go(at - 1)">Back</button>
        <button
          v-if="at < STEPS.length - 1"
          type="button"
          class="action action-main"
          @click="go(at + 1)"
        >
          Next
        </button>
        <NuxtLink v-else to="/bring-in" class="action action-main" @click="leave"
          >Bring in an estate</NuxtLink
        >
        <button type="button" class="action" @click="leave">Leave the path</button>
      </span>
    </template>
    <template v-else>
      <p class="max-w-3xl">
        <b class="font-semibold">{{ estate.outline?.name }}</b> is a demo: an operator that does not
        exist, with faults planted in it. A path of six steps leads through three of them, and mends
        three.
      </p>
      <span class="ml-auto flex shrink-0 gap-2">
        <button type="button" class="action action-main" @click="go(0)">Show me</button>
        <button type="button" class="action" @click="leave">Not now</button>
      </span>
    </template>
  </section>
</template>
