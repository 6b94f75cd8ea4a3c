<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { isWholeSection, pointer, splitRef } from '@salt-trail/core'
import type { Answer, FindingsPage } from '~/api/answers'
import { useAnswer } from '~/api/useAnswer'
import { ask } from '~/api/request'

/** The page of one object: what it is, who refers to it, whom it serves, what is wrong with it. */
const estate = useEstate()
const { edit, tryChange, failure: refused } = useTry()
const of = textInAddress('of', 'push')
/** The id; of a section that is edited as one, its name. */
const id = computed(() => {
  const [section, own] = splitRef(of.value)
  return isWholeSection(section) ? section : own
})
const isWhole = computed(() => isWholeSection(id.value))
useHead({ title: computed(() => `${id.value || 'Object'}, Salt Trail`) })
const { answer: page, failure } = useAnswer<'object'>(() =>
  of.value !== '' && estate.fixedBase !== null
    ? { base: estate.fixedBase, path: 'object', query: { ref: of.value } }
    : null,
)
const MOST_FINDINGS = 100
const { data: found } = useQuery<FindingsPage>(() => ({
  key: ['findings of', estate.fixedBase ?? '', of.value],
  query: ({ signal }) =>
    ask(
      {
        base: estate.fixedBase!,
        path: 'findings',
        query: { object: of.value, count: MOST_FINDINGS },
      },
      signal,
    ),
  enabled: estate.fixedBase !== null && id.value !== '' && !isWhole.value,
}))
const findings = computed(() => found.value?.findings ?? [])
/** In which of the newest revisions it came, changed or went. */
const { data: history } = useQuery<Answer<'/api/estates/{estate}/object-history'>>(() => ({
  key: ['history of', estate.slug ?? '', of.value, String(estate.outline?.head ?? 0)],
  query: ({ signal }) =>
    $fetch(`/api/estates/${estate.slug}/object-history`, { query: { ref: of.value }, signal }),
  enabled: estate.outline !== null && of.value !== '',
}))

async function fail(): Promise<void> {
  const what = `${id.value} fails`
  const path = pointer(...splitRef(of.value), 'state')
  const state = (page.value?.value as { state?: string } | undefined)?.state
  await tryChange(
    what,
    what,
    [{ op: state === undefined ? 'add' : 'replace', path, value: 'down' }],
    'outage',
  )
}
const sideLists = computed(() => [
  { title: 'It refers to', refs: page.value?.refersTo ?? [] },
  ...(isWhole.value
    ? []
    : [
        { title: 'Referred to by', refs: page.value?.referredBy ?? [] },
        { title: 'Serves', refs: (page.value?.serves ?? []).map((one) => `subnets/${one}`) },
      ]),
])
const MOST = 40
</script>

<template>
  <AppShell>
    <div class="h-full overflow-auto px-4 pt-4 pb-6">
      <p v-if="failure" role="alert" class="text-leak">{{ failure }}</p>
      <p v-else-if="!page" role="status" class="text-soft">reading {{ of }} …</p>
      <template v-else>
        <header class="mb-3 flex items-baseline gap-4">
          <h1 class="text-lg font-semibold tracking-tight">{{ page.title ?? id }}</h1>
          <span v-if="!isWhole" class="mono text-soft">{{ page.ref }}</span>
          <span v-if="page.zone" class="text-soft">zone {{ page.zone }}</span>
          <span class="ml-auto flex gap-2">
            <button type="button" class="action action-main" @click="edit(page.ref)">Edit</button>
            <button v-if="page.canFail" type="button" class="action" @click="fail">
              What if it fails
            </button>
            <NuxtLink
              v-if="!isWhole"
              class="action"
              :to="{ path: `/${estate.slug}/${estate.revision}/map`, query: { at: page.ref } }"
              >On the map</NuxtLink
            >
          </span>
        </header>
        <p v-if="refused" role="alert" class="mb-2 text-leak">{{ refused }}</p>
        <div class="grid grid-cols-[minmax(0,1.2fr)_minmax(0,1fr)] gap-8">
          <div>
            <h2 class="mb-1 font-semibold">As it is written</h2>
            <pre class="mono overflow-x-auto border border-hair bg-paper p-3" tabindex="0">{{
              page.text
            }}</pre>
            <template v-if="!isWhole">
              <h2 class="mt-4 mb-1 font-semibold">Findings</h2>
              <p v-if="!found" role="status" class="text-soft">looking …</p>
              <p v-else-if="findings.length === 0" class="text-soft">
                Nothing is wrong that names it.
              </p>
              <p v-else-if="found.total > findings.length" class="text-soft">
                the first {{ findings.length }} of {{ found.total }}
              </p>
              <ul>
                <li
                  v-for="one in findings"
                  :key="one.fingerprint"
                  class="border-b border-hair py-1"
                >
                  <NuxtLink
                    class="underline decoration-rule hover:decoration-ink"
                    :to="{
                      path: `/${estate.slug}/${estate.revision}/findings`,
                      query: { finding: one.fingerprint },
                    }"
                    >{{ one.sentence }}</NuxtLink
                  >
                  <span class="ml-2 text-xs text-soft">{{ one.severity }}</span>
                </li>
              </ul>
            </template>
            <h2 class="mt-4 mb-1 font-semibold">In the latest revisions</h2>
            <p v-if="history?.changes.length === 0" class="text-soft">
              It is the same in the latest {{ history.revisions }}.
            </p>
            <ul>
              <li
                v-for="change in history?.changes ?? []"
                :key="change.number"
                class="border-b border-hair py-1"
              >
                <NuxtLink
                  class="underline decoration-rule"
                  :to="{
                    path: `/${estate.slug}/${estate.revision}/revisions`,
                    query: { revision: change.number },
                  }"
                  >revision {{ change.number }}</NuxtLink
                >
                {{ change.kind }}
                <span class="text-xs text-soft">{{ change.keys.join(', ') }}</span>
              </li>
            </ul>
          </div>
          <div>
            <section v-for="list in sideLists" :key="list.title" class="mb-4">
              <h2 class="mb-1 font-semibold">
                {{ list.title }} <span class="mono text-soft">{{ list.refs.length }}</span>
              </h2>
              <ul class="columns-2 gap-6">
                <li v-for="ref in list.refs.slice(0, MOST)" :key="ref" class="mono break-all">
                  <ObjectName :of="ref" :says="ref" />
                </li>
              </ul>
              <p v-if="list.refs.length > MOST" class="text-xs text-soft">
                and {{ list.refs.length - MOST }} more
              </p>
            </section>
          </div>
        </div>
      </template>
    </div>
  </AppShell>
</template>
