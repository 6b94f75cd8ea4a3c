<script setup lang="ts">
import { DIFFERENCE_KINDS, type DifferenceKind, type ToldPackets } from '@salt-trail/core'
import { expectationQuery } from '~/views/expectations/written'

/**
 * The packets that differ between two states, as rows of from whom, to whom, on what. A row can be
 * asked, which traces the packet that shows it.
 */
const props = defineProps<{ packets: ToldPackets }>()
const ask = useAsk()
const estate = useEstate()
const TITLES: Readonly<Record<DifferenceKind, string>> = {
  cut: 'Cut',
  passedBy: 'No longer inspected',
  opened: 'Opened',
  elsewhere: 'Led to another host',
  inspected: 'Inspected from now on',
}
const MOST = 12
const unfolded = reactive(new Set<DifferenceKind>())
const groups = computed(() =>
  DIFFERENCE_KINDS.filter((kind) => props.packets.counts[kind] > 0).map((kind) => {
    const own = props.packets.rows.filter((row) => row.kind === kind)
    const standing = own.filter((row) => !row.failed)
    return {
      kind,
      title: TITLES[kind],
      total: props.packets.counts[kind],
      failed: own.length - standing.length,
      all: standing,
      shown: unfolded.has(kind) ? standing : standing.slice(0, MOST),
    }
  }),
)
</script>

<template>
  <div class="@container">
    <p v-if="groups.length === 0" class="text-soft">
      No packet that works is opened, cut or led otherwise.
    </p>
    <section v-for="group in groups" :key="group.kind" class="mb-3">
      <h3 class="mb-0.5 text-xs text-soft">
        {{ group.title }}
        <span class="mono">{{ group.total }}</span>
      </h3>
      <ul v-if="group.shown.length > 0" :aria-label="group.title">
        <li
          v-for="(row, index) in group.shown"
          :key="index"
          class="grid gap-x-4 border-t border-hair py-1 @lg:grid-cols-[1fr_1.5fr_1fr_7.5rem]"
        >
          <span class="break-words"><span class="sr-only">from </span>{{ row.from }}</span>
          <span class="break-words"
            ><span class="text-soft @lg:sr-only">to </span>{{ row.to }}</span
          >
          <span class="break-words"
            ><span class="text-soft @lg:sr-only">on </span>{{ row.on }}
            <span v-if="row.note" class="block text-xs text-soft">{{ row.note }}</span></span
          >
          <span class="flex items-baseline gap-3 justify-self-start @lg:justify-self-end">
            <NuxtLink
              class="text-soft underline hover:text-ink"
              :to="{
                path: `/${estate.slug}/${estate.revision}/expectations`,
                query: expectationQuery(
                  row.question,
                  group.kind === 'opened' ? 'never-reach' : 'reach',
                ),
              }"
              :aria-label="`${group.kind === 'opened' ? 'never again' : 'must stay'}: ${row.from} to ${row.to}, ${row.on}`"
              >{{ group.kind === 'opened' ? 'never again' : 'must stay' }}</NuxtLink
            >
            <button
              type="button"
              class="cursor-pointer text-soft underline hover:text-ink"
              :aria-label="`trace ${row.from} to ${row.to}, ${row.on}`"
              @click="ask(row.question)"
            >
              trace
            </button>
          </span>
        </li>
      </ul>
      <button
        v-if="group.all.length > group.shown.length"
        type="button"
        class="pt-1 text-xs text-soft underline"
        @click="unfolded.add(group.kind)"
      >
        {{ group.all.length - group.shown.length }} more
      </button>
      <p v-if="group.failed > 0" class="pt-1 text-xs text-soft">
        {{ group.failed }} {{ group.failed === 1 ? 'row has' : 'rows have' }} an end that is down
        itself
      </p>
    </section>
    <p v-if="packets.leftOut.length > 0" role="status" class="text-xs text-soft">
      Not covered: packets from {{ packets.leftOut.slice(0, 6).join(', ')
      }}<template v-if="packets.leftOut.length > 6">
        and {{ packets.leftOut.length - 6 }} more</template
      >. The comparison was stopped at its limit of work.
    </p>
  </div>
</template>
