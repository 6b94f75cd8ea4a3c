<script setup lang="ts">
import type { ChangedRow, Finding, Problem } from '@salt-trail/core'
import { familyOfCode } from '@salt-trail/core'
import { seenTogether } from '~/consequences/seen-together'
import type { Follows } from '~/consequences/worker'
import type { ForesightState } from '~/consequences/useForesight'
import { cellTextOf, differingColumns } from '~/views/exits/cells'

/**
 * The consequences of a change before it is saved: packets that are opened and cut, findings that
 * come and go, ways out that differ, expectations whose state changes, what partners see, what it
 * costs.
 */
const props = defineProps<{
  state: ForesightState
  message: string
  found: Follows | null
  milliseconds: number
  problems?: readonly Problem[]
  /** One part of it alone. */
  only?: 'exits' | 'packets' | 'findings' | 'expectations' | 'seen' | 'all'
}>()
const shows = (part: NonNullable<typeof props.only>): boolean =>
  props.only === undefined || props.only === 'all' || props.only === part
const MOST = 60
/** The columns of a row whose ways differ, in the words of the matrix. */
const differing = (row: ChangedRow): string[] =>
  differingColumns(row).map(({ key, title }) => {
    const [was, is] = [cellTextOf(row.before, key), cellTextOf(row.now, key)]
    return `${title}: ${was === is ? `${is}, otherwise than before` : `${was} → ${is}`}`
  })
const findings = computed((): { sign: string; said: string; one: Finding }[] => [
  ...(props.found?.findingsCome ?? []).map((one) => ({ sign: '+', said: 'comes: ', one })),
  ...(props.found?.findingsGone ?? []).map((one) => ({ sign: '−', said: 'goes: ', one })),
  ...(props.found?.findingsOther ?? []).map((one) => ({
    sign: '~',
    said: 'says another thing: ',
    one,
  })),
])
/** Expectations whose state is another one. */
const turned = computed(() =>
  (props.found?.expectations ?? []).filter(({ before, state }) => before !== state),
)
const MOST_SEEN = 8
const seen = computed(() => seenTogether(props.found?.seenAs ?? []))
const count = (n: number, one: string, many: string): string =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
</script>

<template>
  <section
    v-if="state !== 'none'"
    class="mt-4"
    :aria-busy="state === 'running' || state === 'comparing'"
  >
    <h2 class="mb-1 font-semibold">What follows from it</h2>
    <p v-if="state === 'running' && !found" class="text-soft" role="status">being foreseen …</p>
    <p v-else-if="state === 'too-large'" class="text-soft">
      With {{ message }} it is too large to foresee here. The server analyses it once it is taken.
    </p>
    <p v-else-if="state === 'failed'" class="text-leak" role="alert">
      It could not be foreseen: {{ message }}.
    </p>
    <div v-else-if="state === 'invalid'" role="alert">
      <p class="text-leak">The estate would be invalid, so nothing can be said of it:</p>
      <ul>
        <li
          v-for="problem in (problems ?? []).slice(0, 12)"
          :key="problem.message"
          class="border-b border-hair py-1 break-words"
        >
          <span v-if="problem.object" class="mono">{{ problem.object }}</span>
          {{ problem.message }}
        </li>
      </ul>
    </div>
    <div v-else-if="found" :class="state === 'running' ? 'opacity-50' : ''">
      <p class="mb-2 text-soft">
        {{ count(found.findingsCome.length, 'finding comes', 'findings come') }},
        {{ count(found.findingsGone.length, 'goes', 'go') }};
        {{ count(found.exits.length, 'subnet has other ways out', 'subnets have other ways out')
        }}<template v-if="turned.length > 0"
          >; {{ count(turned.length, 'expectation turns', 'expectations turn') }}</template
        >.
        <template v-if="found.packets"
          >Computed in {{ Math.max(1, Math.round(milliseconds)) }} ms.</template
        >
        <template v-else>Packets are being compared …</template>
        <template v-if="found.money"
          >It costs {{ found.money.after }} {{ found.money.currency ?? '' }} an hour instead of
          {{ found.money.before }}.</template
        >
      </p>
      <PacketRows v-if="found.packets && shows('packets')" :packets="found.packets" />
      <ul v-if="shows('expectations')">
        <li
          v-for="one in found.expectations"
          :key="one.id"
          class="flex gap-2 border-b border-hair py-1"
        >
          <span class="mono w-3 shrink-0" aria-hidden="true">!</span>
          <span
            ><b class="font-semibold">{{ one.id }}</b>
            {{
              one.before === one.state
                ? `is ${one.state} as before, otherwise`
                : `is now ${one.state}${one.before ? ` (${one.before} before)` : ''}`
            }}: {{ one.sentence }}</span
          >
        </li>
      </ul>
      <ul v-if="shows('findings')">
        <li
          v-for="{ sign, said, one } in findings.slice(0, MOST)"
          :key="`${sign} ${one.fingerprint}`"
          class="flex gap-2 border-b border-hair py-1"
        >
          <span class="mono w-3 shrink-0" aria-hidden="true">{{ sign }}</span>
          <ProblemMark :mark="familyOfCode(one.code)" class="mt-0.5 shrink-0" />
          <span :class="sign === '−' ? 'text-soft line-through' : ''"
            ><span class="sr-only">{{ said }}</span
            >{{ one.sentence }}</span
          >
        </li>
      </ul>
      <p v-if="shows('findings') && findings.length > MOST" class="py-1 text-soft">
        and {{ findings.length - MOST }} more findings
      </p>
      <ul v-if="shows('seen') && seen.length > 0" class="mt-3" aria-label="What partners see">
        <li
          v-for="one in seen.slice(0, MOST_SEEN)"
          :key="one.key"
          class="border-b border-hair py-1"
        >
          {{ one.parties.join(' and ') }} {{ one.parties.length === 1 ? 'sees' : 'see' }}
          <template v-for="(subnet, at) in one.subnets.slice(0, 4)" :key="subnet"
            >{{ at === 0 ? '' : ', ' }}<ObjectName :of="subnet" /></template
          ><template v-if="one.subnets.length > 4"> and {{ one.subnets.length - 4 }} more</template>
          as <span class="mono">{{ one.after }}</span>, until now as
          <span class="mono">{{ one.before }}</span><span
            v-if="one.isMissing"
            class="font-semibold text-leak"
            >, which
            {{ one.parties.length === 1 ? 'its allowlist does' : 'their allowlists do' }} not
            have</span
          >
        </li>
        <li v-if="seen.length > MOST_SEEN" class="text-soft">
          and {{ seen.length - MOST_SEEN }} more
        </li>
      </ul>
      <table v-if="shows('exits') && found.exits.length > 0" class="mt-3 w-full border-collapse">
        <caption class="sr-only">
          Subnets with other ways out
        </caption>
        <tbody>
          <tr
            v-for="row in found.exits.slice(0, MOST)"
            :key="row.subnet"
            class="border-b border-hair align-top"
          >
            <th scope="row" class="w-40 py-1 pr-2 text-left font-semibold break-words">
              <ObjectName :of="`subnets/${row.subnet}`" />
            </th>
            <td class="py-1">
              <span v-for="line in differing(row)" :key="line" class="block">{{ line }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="shows('exits') && found.exits.length > MOST" class="py-1 text-soft">
        and {{ found.exits.length - MOST }} more subnets
      </p>
    </div>
  </section>
</template>
