<script setup lang="ts">
import { familyOfCode } from '@salt-trail/core'
import { bothTexts, bySection } from '~/views/revisions/change-words'
import type { Asked } from '~/api/request'
import { useAnswer } from '~/api/useAnswer'
import type { TableText } from '~/tables/table-text'

/**
 * Two revisions compared: the objects that changed, the ways that changed with them, the findings
 * that came and went.
 */
const props = defineProps<{
  since: number
  /** A number, or `draft-ID.VERSION`. */
  revision: number | string
}>()
const later = computed(() =>
  typeof props.revision === 'number' ? `in revision ${props.revision}` : 'in the draft',
)
const estate = useEstate()

const asked = <P extends 'difference' | 'findings-since'>(path: P): Asked<P> | null =>
  props.since === props.revision
    ? null
    : { base: estate.baseOf(String(props.revision)), path, query: { since: props.since } }
const { answer: difference, failure: failed } = useAnswer(() => asked('difference'))
const { answer: findings, failure: findingsFailed } = useAnswer(() => asked('findings-since'))
const failure = computed(() => failed.value ?? findingsFailed.value)
const sections = computed(() => bySection(difference.value?.objects ?? []))
const KINDS = { added: '+ ', removed: '− ', changed: '± ' } as const
const name = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
const count = (n: number, one: string, many: string): string =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
const wayTable = (): TableText => ({
  columns: ['subnet', 'hosts', 'destinations', 'before', 'after'],
  rows: (difference.value?.ways ?? []).map((one) => [
    name(one.subnet),
    one.hosts.join(' '),
    one.ranges.join(' '),
    ...bothTexts(one),
  ]),
})
</script>

<template>
  <div class="min-h-0 overflow-y-auto px-4 pb-6" tabindex="0" aria-label="What differs">
    <p v-if="since === revision" class="pt-4 text-soft">Choose another revision to compare with.</p>
    <p v-if="failure" role="alert" class="pt-4 text-leak">{{ failure }}</p>
    <template v-if="since !== revision">
      <section class="pt-4">
        <h2 class="mb-1 font-semibold">Objects</h2>
        <p v-if="!difference" role="status" class="text-soft">comparing …</p>
        <p v-else-if="sections.length === 0" class="text-soft">No object differs.</p>
        <div
          v-for="section in sections"
          :key="section.section"
          class="flex gap-4 border-t border-hair py-1"
        >
          <span class="w-36 shrink-0 text-xs leading-[18px] text-soft">{{ section.section }}</span>
          <ul class="flex flex-wrap gap-x-5 gap-y-0.5">
            <li v-for="change in section.changes" :key="change.object" :title="change.kind">
              <span class="mono text-soft" aria-hidden="true">{{ KINDS[change.kind] }}</span><span
                class="sr-only"
                >{{ change.kind }} </span
              ><ObjectName
                v-if="change.kind !== 'removed' && change.object !== 'name'"
                :of="change.object"
                :says="change.name"
              /><template v-else>{{ change.name }}</template>
              <span v-if="change.keys.length > 0" class="ml-1.5 text-xs text-soft">{{
                change.keys.join(', ')
              }}</span>
            </li>
          </ul>
        </div>
      </section>
      <section class="pt-5">
        <h2 class="mb-1 font-semibold">Packets</h2>
        <p v-if="!difference" role="status" class="text-soft">walking both …</p>
        <PacketRows v-else :packets="difference.packets" />
      </section>
      <section class="pt-5">
        <div class="mb-1 flex items-baseline gap-3">
          <h2 class="font-semibold">Ways out</h2>
          <span v-if="difference" class="text-xs text-soft"
            >{{ count(difference.wayCount, 'change', 'changes') }} in
            {{ count(difference.subnetCount, 'subnet', 'subnets') }}</span
          >
          <CopyTable
            v-if="difference && difference.ways.length > 0"
            class="ml-auto"
            :name="`ways-${since}-${revision}`"
            :table="wayTable"
          />
        </div>
        <p v-if="!difference" role="status" class="text-soft">walking both …</p>
        <p v-else-if="difference.ways.length === 0" class="text-soft">
          Every subnet sends everything the same way.
        </p>
        <table v-else class="w-full table-fixed border-collapse">
          <thead>
            <tr class="text-left text-xs text-soft">
              <th class="w-[22%] py-1 font-medium">subnet</th>
              <th class="w-[24%] py-1 font-medium">destinations</th>
              <th class="py-1 pr-3 font-medium">in revision {{ since }}</th>
              <th class="py-1 font-medium">{{ later }}</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(one, index) in difference.ways"
              :key="index"
              class="border-t border-hair align-top"
            >
              <td class="py-1 pr-3 break-words">
                {{ name(one.subnet) }}
                <span v-if="one.hosts.length > 0" class="block text-xs text-soft">
                  {{ one.hosts[0] }}
                  <template v-if="one.hosts.length > 1">
                    and {{ one.hosts.length - 1 }} more
                  </template>
                </span>
              </td>
              <td
                class="py-1 pr-3 break-words"
                :title="`${one.ranges.join(' ')}${one.moreRanges > 0 ? ` and ${one.moreRanges} more` : ''}`"
              >
                {{ one.destinations.slice(0, 4).join(', ') }}
                <span v-if="one.destinations.length > 4" class="text-xs text-soft"
                  >and {{ one.destinations.length - 4 }} more</span
                >
              </td>
              <td class="py-1 pr-3" :class="one.before?.cause ? 'text-soft' : ''">
                {{ bothTexts(one)[0] }}
              </td>
              <td class="py-1" :class="one.after?.cause ? 'text-soft' : ''">
                {{ bothTexts(one)[1] }}
              </td>
            </tr>
          </tbody>
        </table>
        <p
          v-if="difference && difference.wayCount > difference.ways.length"
          class="pt-1 text-xs text-soft"
        >
          and {{ (difference.wayCount - difference.ways.length).toLocaleString('en-GB') }} more
        </p>
      </section>
      <section v-for="side in ['come', 'gone'] as const" :key="side" class="pt-5">
        <h2 class="mb-1 font-semibold">Findings that {{ side === 'come' ? 'came' : 'went' }}</h2>
        <p v-if="!findings" role="status" class="text-soft">waiting for both analyses …</p>
        <p v-else-if="findings[side].length === 0" class="text-soft">None.</p>
        <ul v-else>
          <li
            v-for="one in findings[side]"
            :key="one.fingerprint"
            class="flex gap-2 border-t border-hair py-1"
          >
            <ProblemMark :mark="familyOfCode(one.code)" class="mt-0.5" />
            <span class="w-14 shrink-0 text-xs leading-[18px] text-soft">{{ one.severity }}</span>
            <NuxtLink
              class="hover:underline"
              :to="{
                path: `/${estate.slug}/${side === 'come' ? revision : since}/findings`,
                query: { finding: one.fingerprint, family: familyOfCode(one.code) },
              }"
              >{{ one.sentence }}</NuxtLink
            >
          </li>
        </ul>
      </section>
    </template>
  </div>
</template>
