<script setup lang="ts">
import { familyOfCode } from '@salt-trail/core'
import { useQuery } from '@pinia/colada'
import type { ListedFinding } from '~/api/answers'
import { fetchFindings } from '~/views/findings/fetch'
import { FAMILIES, touchesText } from '~/views/findings/finding-words'
import { failureText } from '~/api/failure-text'
import { useRootCauses } from '~/views/findings/useRootCauses'

/**
 * Everything that is wrong with a revision as a report: to be read in one piece, printed, or sent.
 */
const estate = useEstate()
useHead({ title: computed(() => `Report on ${estate.outline?.name ?? 'an estate'}`) })
const { data, error } = useQuery<ListedFinding[]>(() => ({
  key: ['every finding', estate.fixedBase ?? ''],
  query: () => fetchFindings(estate.fixedBase!, {}),
  enabled: estate.fixedBase !== null && estate.isDone,
}))
const findings = computed(() => data.value ?? null)
const { found: causes } = useRootCauses(() => ({
  family: null,
  severity: null,
  network: null,
  text: '',
}))
const failure = computed(() => (error.value === null ? '' : failureText(error.value)))
const groups = computed(() =>
  FAMILIES.map((family) => ({
    ...family,
    own: (findings.value ?? []).filter((one) => familyOfCode(one.code) === family.family),
  })).filter(({ own }) => own.length > 0),
)
const broken = computed(() => (estate.expectations ?? []).filter(({ state }) => state !== 'holds'))
const print = (): void => window.print()
const RANGES_SHOWN = 12
</script>

<template>
  <AppShell>
    <div
      v-if="estate.outline && findings"
      class="h-full overflow-y-auto px-4"
      tabindex="0"
      aria-label="Report"
    >
      <article class="mx-auto max-w-4xl py-6">
        <header class="mb-5 flex items-start gap-6 border-b border-ink pb-3">
          <div>
            <h1 class="text-lg font-semibold">{{ estate.outline.name }}: what is wrong</h1>
            <p class="text-soft">
              Revision {{ estate.outline.revision.number }} of
              {{ when(estate.outline.revision.createdAt) }}, by
              {{ estate.outline.revision.author }}.
              {{ estate.outline.subnets.length.toLocaleString('en-GB') }} subnets,
              <template v-if="causes"
                >{{ causes.total.toLocaleString('en-GB') }} root causes,
              </template>
              {{ findings.length.toLocaleString('en-GB') }} findings, {{ broken.length }} of
              {{ estate.expectations?.length ?? 0 }} expectations not kept.
            </p>
          </div>
          <button type="button" class="action action-main ml-auto print:hidden" @click="print">
            Print
          </button>
        </header>
        <section v-if="broken.length > 0" class="mb-6">
          <h2 class="mb-1 text-base font-semibold">Expectations that are not kept</h2>
          <ul>
            <li
              v-for="one in broken"
              :key="one.id"
              class="break-inside-avoid border-t border-hair py-1.5"
            >
              <b class="font-semibold">{{ one.id }}</b> ({{ one.must }}, {{ one.says }}):
              {{ one.state }}, {{ one.sentence }}
              <span v-if="one.packet" class="mono block text-soft"
                >{{ one.packet.src }} &gt; {{ one.packet.dst }} {{ one.packet.protocol }}
                {{ one.packet.dstPort ?? '' }}</span
              >
            </li>
          </ul>
        </section>
        <section v-if="causes && causes.total > 0" class="mb-6">
          <h2 class="mb-1 text-base font-semibold">Root causes, what to mend first</h2>
          <ol>
            <li
              v-for="one in causes.rootCauses"
              :key="one.fingerprint"
              class="grid break-inside-avoid grid-cols-[70px_1fr] border-t border-hair py-2"
            >
              <span class="text-xs leading-[18px] text-soft">{{
                one.accepted ? 'accepted' : one.severity
              }}</span>
              <div>
                <p>{{ one.sentence }}</p>
                <p class="text-soft">
                  {{ touchesText(one)
                  }}{{ one.concerns.length > 0 ? `; ${one.concerns.join(', ')}` : '' }}
                </p>
                <p v-if="one.unlike.length > 0" class="text-soft">
                  Unlike their likes: {{ one.unlike.join('; ') }}
                </p>
                <p v-if="one.accepted">
                  Accepted by {{ one.accepted.author
                  }}{{ one.accepted.until ? ` until ${one.accepted.until}` : '' }}:
                  {{ one.accepted.reason }}
                </p>
              </div>
            </li>
          </ol>
        </section>
        <section v-for="group in groups" :key="group.family" class="mb-6">
          <h2 class="mb-1 flex items-center gap-2 text-base font-semibold">
            <ProblemMark :mark="group.family" />{{ group.title }}, {{ group.about }}
          </h2>
          <ol>
            <li
              v-for="one in group.own"
              :key="one.fingerprint"
              class="grid break-inside-avoid grid-cols-[70px_1fr] border-t border-hair py-2"
            >
              <span class="text-xs leading-[18px] text-soft">{{
                one.accepted ? 'accepted' : one.severity
              }}</span>
              <div>
                <p><NamedText :text="one.sentence" :objects="[one.anchor, ...one.objects]" /></p>
                <p class="mono text-soft">
                  {{ one.code }}
                  <ObjectName v-if="one.anchor.includes('/')" :of="one.anchor" :says="one.anchor" />
                  <template v-else>{{ one.anchor }}</template>
                </p>
                <p v-if="one.evidence.ranges.length > 0" class="mono break-words text-soft">
                  {{ one.evidence.ranges.slice(0, RANGES_SHOWN).join('  ')
                  }}{{
                    one.evidence.ranges.length > RANGES_SHOWN
                      ? `  and ${one.evidence.ranges.length - RANGES_SHOWN} more`
                      : ''
                  }}
                </p>
                <p v-if="one.accepted">
                  Accepted by {{ one.accepted.author
                  }}{{ one.accepted.until ? ` until ${one.accepted.until}` : '' }}:
                  {{ one.accepted.reason }}
                </p>
              </div>
            </li>
          </ol>
        </section>
        <p v-if="findings.length === 0">
          Nothing is wrong with this revision, as far as every check can see.
        </p>
      </article>
    </div>
    <p v-else-if="failure" role="alert" class="p-4 text-leak">{{ failure }}</p>
    <LoadState v-else />
  </AppShell>
</template>
