<script setup lang="ts">
import { SEVERITIES, type FindingFamily, type Severity } from '@salt-trail/core'
import { FAMILIES, GROUPINGS, type FindingsGrouping } from '~/views/findings/finding-words'
import type { TableText } from '~/tables/table-text'

/** Which findings are shown, and what they are grouped by. */
defineProps<{ table: () => Promise<TableText> }>()
const by = defineModel<FindingsGrouping>('by', { required: true })
const family = defineModel<FindingFamily | ''>('family', { required: true })
const severity = defineModel<Severity | ''>('severity', { required: true })
const about = defineModel<'' | 'left-behind'>('about', { required: true })
const network = defineModel<string>('network', { required: true })
const text = defineModel<string>('text', { required: true })
const estate = useEstate()
const families = computed(() => estate.analysis?.counts?.families)
const total = computed(() =>
  families.value ? families.value.leak + families.value.hole + families.value.weak : 0,
)
const countOf = (of: FindingFamily): string => (families.value?.[of] ?? 0).toLocaleString('en-GB')
const networks = computed(() => [
  ...new Set((estate.outline?.subnets ?? []).map((subnet) => subnet.network)),
])
</script>

<template>
  <div class="toolbar border-b border-rule">
    <button
      type="button"
      class="cursor-pointer"
      :class="family === '' ? 'font-semibold' : 'text-soft'"
      :aria-pressed="family === ''"
      @click="family = ''"
    >
      all {{ total.toLocaleString('en-GB') }}
    </button>
    <button
      v-for="one in FAMILIES"
      :key="one.family"
      type="button"
      class="flex cursor-pointer items-center gap-1.5"
      :class="family === one.family ? 'font-semibold' : 'text-soft'"
      :aria-pressed="family === one.family"
      :title="one.about"
      @click="family = one.family"
    >
      <ProblemMark :mark="one.family" /> {{ one.title.toLowerCase() }} {{ countOf(one.family) }}
    </button>
    <button
      type="button"
      class="cursor-pointer"
      :class="about === 'left-behind' ? 'font-semibold' : 'text-soft'"
      :aria-pressed="about === 'left-behind'"
      title="Routes to what is gone, and what nothing uses"
      @click="about = about === '' ? 'left-behind' : ''"
    >
      left behind
    </button>
    <span v-if="estate.analysis?.counts?.accepted" class="text-soft"
      >and {{ estate.analysis.counts.accepted }} accepted</span
    >
    <label class="ml-3 flex items-center gap-1.5 text-soft"
      >severity at least
      <select
        class="border-b border-rule bg-paper py-0.5 text-ink"
        :value="severity || 'note'"
        @change="severity = ($event.target as HTMLSelectElement).value as Severity | ''"
      >
        <option v-for="one in SEVERITIES" :key="one" :value="one">{{ one }}</option>
      </select>
    </label>
    <label class="flex items-center gap-1.5 text-soft"
      >by
      <select
        class="border-b border-rule bg-paper py-0.5 text-ink"
        :value="by"
        @change="by = ($event.target as HTMLSelectElement).value as FindingsGrouping"
      >
        <option v-for="one in GROUPINGS" :key="one" :value="one">
          {{ one.replace('-', ' ') }}
        </option>
      </select>
    </label>
    <label v-if="by === 'network' || network" class="flex items-center gap-1.5 text-soft"
      >in
      <select
        class="max-w-40 border-b border-rule bg-paper py-0.5 text-ink"
        :value="network"
        @change="network = ($event.target as HTMLSelectElement).value"
      >
        <option value="">every network</option>
        <option v-for="one in networks" :key="one" :value="one">{{ one }}</option>
      </select>
    </label>
    <NuxtLink
      :to="`/${estate.slug}/${estate.revision}/report`"
      class="ml-auto border-b border-rule text-soft hover:text-ink"
      >report</NuxtLink
    >
    <CopyTable name="findings" :table="table" />
    <label class="flex items-center gap-1.5 text-soft"
      >with
      <input
        v-model="text"
        type="search"
        class="w-40 border-b border-rule bg-paper px-1 py-0.5 text-ink"
        placeholder="code, object or words"
      />
    </label>
  </div>
</template>
