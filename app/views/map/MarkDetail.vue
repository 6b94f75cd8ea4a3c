<script setup lang="ts">
import { allOf, familyOfCode, type EstateGraph } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'
import { nameOf } from '~/views/map/layout'

/**
 * What is selected on the map: what it is, what it is joined to, what is wrong with it, and where
 * to go on.
 */
const props = defineProps<{
  graph: EstateGraph
  selected: string
  joined: ReadonlyMap<string, readonly string[]>
  opened: readonly string[]
}>()
const emit = defineEmits<{
  open: [what: string]
  close: [what: string]
  waysOut: [network: string]
  select: [ref: string]
}>()
const estate = useEstate()
const node = computed(() => props.graph.nodes.find(({ ref }) => ref === props.selected) ?? null)
const subnet = computed(() =>
  props.selected.startsWith('subnets/')
    ? (estate.outline?.subnets.find(({ id }) => id === nameOf(props.selected)) ?? null)
    : null,
)
const section = computed(() => props.selected.slice(0, Math.max(0, props.selected.indexOf('/'))))
const nameIn = (ref: string): string =>
  props.graph.nodes.find((one) => one.ref === ref)?.name ?? nameOf(ref)
/** The networks that a mark stands for. */
const members = computed(() =>
  section.value === 'alike'
    ? (node.value?.stands ?? []).filter((ref) => ref.startsWith('networks/'))
    : [],
)
const others = computed(() => props.joined.get(props.selected) ?? [])

const { answer: mentioning } = useAnswer<'findings'>(() =>
  estate.fixedBase === null || !props.selected.includes('/')
    ? null
    : { base: estate.fixedBase, path: 'findings', query: { text: props.selected, count: 50 } },
)
/** Findings that stand at it. */
const found = computed(() =>
  (mentioning.value?.findings ?? []).filter(({ anchor }) => anchor === props.selected),
)
const to = (view: string, query: Record<string, string>) => ({
  path: `/${estate.slug}/${estate.revision}/${view}`,
  query,
})
</script>

<template>
  <aside class="flex flex-col gap-3 p-4" :aria-label="`About ${nameOf(selected)}`">
    <header>
      <h2 class="text-base font-semibold break-words">
        <ObjectName v-if="section !== '' && section !== 'alike'" :of="selected" />
        <template v-else>{{ node?.name ?? nameOf(selected) }}</template>
      </h2>
      <p class="text-xs text-soft">
        {{
          subnet
            ? `subnet, ${subnet.zone ?? subnet.region ?? 'all zones'}${subnet.role ? `, declared ${subnet.role}` : ''}`
            : `${node?.kind ?? ''}${node && !node.up ? ', not up' : ''}`
        }}
      </p>
      <p class="mono mt-1 break-words">{{ subnet ? subnet.ranges.join('  ') : node?.about }}</p>
      <p v-if="subnet?.table" class="mt-1 text-xs text-soft">
        table {{ subnet.table }}{{ subnet.ownTable ? '' : ', its network’s default' }}
      </p>
    </header>
    <ul v-if="subnet" class="flex flex-wrap gap-x-4 gap-y-1">
      <li>
        <NuxtLink class="border-b border-ink" :to="to('exits', { find: subnet.id })"
          >exits</NuxtLink
        >
      </li>
      <li>
        <NuxtLink class="border-b border-ink" :to="to('next-hops', { subnet: subnet.id })"
          >next hops</NuxtLink
        >
      </li>
      <li>
        <NuxtLink class="border-b border-ink" :to="to('ways-in', { subnet: subnet.id })"
          >ways in</NuxtLink
        >
      </li>
    </ul>
    <ul v-else-if="node?.kind === 'network'" class="flex flex-wrap gap-x-4 gap-y-1">
      <li>
        <button
          type="button"
          class="cursor-pointer border-b border-ink"
          @click="emit('waysOut', nameOf(selected))"
        >
          its ways out
        </button>
      </li>
      <li v-if="graph.folds">
        <button
          v-if="!opened.includes(nameOf(selected))"
          type="button"
          class="cursor-pointer border-b border-ink"
          @click="emit('open', nameOf(selected))"
        >
          unfold
        </button>
        <button
          v-else
          type="button"
          class="cursor-pointer border-b border-ink"
          @click="emit('close', nameOf(selected))"
        >
          fold
        </button>
      </li>
      <li>
        <NuxtLink class="border-b border-ink" :to="to('exits', { find: nameOf(selected) })"
          >exits</NuxtLink
        >
      </li>
    </ul>
    <p v-else-if="node && node.stands.length > 0">
      <button
        type="button"
        class="cursor-pointer border-b border-ink"
        @click="emit('open', section === 'alike' ? selected : allOf(selected))"
      >
        unfold
      </button>
    </p>
    <p v-else-if="opened.includes(allOf(section))">
      <button
        type="button"
        class="cursor-pointer border-b border-ink"
        @click="emit('close', allOf(section))"
      >
        fold the {{ section }}
      </button>
    </p>
    <section v-if="found.length > 0">
      <h3 class="mb-1 font-semibold">What is wrong with it</h3>
      <ul>
        <li
          v-for="one in found.slice(0, 12)"
          :key="one.fingerprint"
          class="flex gap-2 border-t border-hair py-1"
        >
          <ProblemMark :mark="familyOfCode(one.code)" class="mt-0.5" />
          <NuxtLink
            class="hover:underline"
            :to="to('findings', { finding: one.fingerprint, family: familyOfCode(one.code) })"
            >{{ one.sentence }}</NuxtLink
          >
        </li>
      </ul>
    </section>
    <section v-if="members.length > 0">
      <h3 class="mb-1 font-semibold">Stands for</h3>
      <ul>
        <li v-for="member in members.slice(0, 40)" :key="member" class="flex gap-3">
          <ObjectName :of="member" />
          <button
            type="button"
            class="ml-auto cursor-pointer text-xs text-soft hover:text-ink"
            :aria-label="`Show ${nameOf(member)} by itself`"
            @click="emit('open', nameOf(member))"
          >
            by itself
          </button>
        </li>
      </ul>
      <p v-if="members.length > 40" class="text-xs text-soft">and {{ members.length - 40 }} more</p>
    </section>
    <section v-if="others.length > 0">
      <h3 class="mb-1 font-semibold">Joined to</h3>
      <ul>
        <li v-for="other in others.slice(0, 40)" :key="other">
          <button
            type="button"
            class="cursor-pointer text-left hover:underline"
            @click="emit('select', other)"
          >
            {{ nameIn(other) }}
          </button>
        </li>
      </ul>
      <p v-if="others.length > 40" class="text-xs text-soft">and {{ others.length - 40 }} more</p>
    </section>
  </aside>
</template>
