<script setup lang="ts">
import type { ChangedRow, ExitRow, Finding, Foreseen } from '@salt-trail/core'
import { familyOfCode } from '@salt-trail/core'
import { cellOf, COLUMNS, type ColumnKey } from '~/views/exits/cells'

/**
 * The consequences of files before they are saved: packets that are opened and cut, findings that come
 * and go, ways out that differ, expectations whose state changes.
 */
const props = defineProps<{
  state: 'none' | 'running' | 'done' | 'too-large' | 'failed'
  message: string
  found: Foreseen | null
  milliseconds: number
}>()
const MOST = 60
const text = (row: ExitRow | null, key: ColumnKey): string =>
  row === null ? 'not there' : cellOf(row[key]).text

/** The columns of a row whose ways differ, in the words of the matrix. */
const differing = ({ before, now }: ChangedRow): string[] =>
  COLUMNS.filter(({ key }) => JSON.stringify(before?.[key]) !== JSON.stringify(now?.[key])).map(
    ({ key, title }) => {
      const [was, is] = [text(before, key), text(now, key)]
      return `${title}: ${was === is ? `${is}, otherwise than before` : `${was} → ${is}`}`
    },
  )
const findings = computed((): { sign: string; said: string; one: Finding }[] => [
  ...(props.found?.findingsCome ?? []).map((one) => ({ sign: '+', said: 'comes: ', one })),
  ...(props.found?.findingsGone ?? []).map((one) => ({ sign: '−', said: 'goes: ', one })),
  ...(props.found?.findingsOther ?? []).map((one) => ({
    sign: '~',
    said: 'says another thing: ',
    one,
  })),
])
const count = (n: number, one: string, many: string): string =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
</script>

<template>
  <section v-if="state !== 'none'" class="mt-4">
    <h2 class="mb-1 font-semibold">What follows from it</h2>
    <p v-if="state === 'running'" class="text-soft" role="status">being foreseen …</p>
    <p v-else-if="state === 'too-large'" class="text-soft">
      With {{ message }} it is too large to foresee here. The server analyses it once it is taken.
    </p>
    <p v-else-if="state === 'failed'" class="text-leak" role="alert">
      It could not be foreseen: {{ message }}.
    </p>
    <template v-else-if="found">
      <p class="mb-2 text-soft">
        {{ count(found.findingsCome.length, 'finding comes', 'findings come') }},
        {{ count(found.findingsGone.length, 'goes', 'go') }};
        {{ count(found.exits.length, 'subnet has other ways out', 'subnets have other ways out')
        }}<template v-if="found.expectations.length > 0"
          >;
          {{ count(found.expectations.length, 'expectation turns', 'expectations turn') }}</template
        >. Computed in {{ Math.max(1, Math.round(milliseconds)) }} ms.
      </p>
      <PacketRows :packets="found.packets" />
      <ul>
        <li
          v-for="one in found.expectations"
          :key="one.id"
          class="flex gap-2 border-b border-hair py-1"
        >
          <span class="mono w-3 shrink-0" aria-hidden="true">!</span>
          <span>{{ one.id }} is now {{ one.state }}: {{ one.sentence }}</span>
        </li>
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
      <p v-if="findings.length > MOST" class="py-1 text-soft">
        and {{ findings.length - MOST }} more findings
      </p>
      <table v-if="found.exits.length > 0" class="mt-3 w-full border-collapse">
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
              {{ row.subnet }}
            </th>
            <td class="py-1">
              <span v-for="line in differing(row)" :key="line" class="block">{{ line }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="found.exits.length > MOST" class="py-1 text-soft">
        and {{ found.exits.length - MOST }} more subnets
      </p>
    </template>
  </section>
</template>
