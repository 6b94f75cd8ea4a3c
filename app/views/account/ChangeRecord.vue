<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import type { RecordPage } from '~/api/answers'
import { useActing } from './useActing'

/** What was changed, by whom, the newest first; of one estate where one is named. */
const props = defineProps<{ ofEstate: string | null }>()
const page = shallowRef<RecordPage | null>(null)
const text = textInAddress('find', 'replace')
const since = textInAddress('since', 'replace')
const until = textInAddress('until', 'replace')
const asked = refDebounced(text, 250)
const from = ref(0)
const COUNT = 100
const { failure, isBusy, act } = useActing()

const query = computed(() => ({
  text: asked.value,
  ...(since.value ? { since: since.value } : {}),
  ...(until.value ? { until: until.value } : {}),
}))
const path = computed(() =>
  props.ofEstate === null ? '/api/record' : `/api/estates/${props.ofEstate}/record`,
)
const look = () =>
  act(async () => {
    page.value = await $fetch<RecordPage>(path.value, {
      query: { ...query.value, from: from.value, count: COUNT },
    })
  })
const table = computed(() => `/api/record/table?${new URLSearchParams(query.value)}`)
watch([query, path], () => {
  from.value = 0
  void look()
})
watch(from, look)
onMounted(look)
/** A status in one word. */
function became(status: number | null): string {
  if (status === null) return 'not known'
  if (status < 400) return 'done'
  return status === 403 || status === 401 ? 'refused' : `failed, ${status}`
}
const FIELD = 'border-b border-rule bg-paper py-0.5'
</script>

<template>
  <div>
    <form class="mb-3 flex flex-wrap items-end gap-4" @submit.prevent="look">
      <label>
        <span class="block text-xs text-soft">Who, what, estate or request holds</span>
        <input v-model="text" class="w-64" :class="FIELD" type="search" maxlength="200" />
      </label>
      <label>
        <span class="block text-xs text-soft">From day</span>
        <input v-model="since" :class="FIELD" type="date" />
      </label>
      <label>
        <span class="block text-xs text-soft">To day</span>
        <input v-model="until" :class="FIELD" type="date" />
      </label>
      <a v-if="ofEstate === null" class="action" :href="table" download>Take it as CSV</a>
    </form>
    <p v-if="failure" role="alert" class="mb-3 text-leak">{{ failure }}</p>
    <template v-if="page">
      <p class="mb-1 text-xs text-soft" role="status">
        {{ page.total.toLocaleString('en-GB') }} {{ page.total === 1 ? 'change' : 'changes' }}
      </p>
      <table v-if="page.entries.length > 0" class="w-full table-fixed">
        <thead class="text-left text-xs text-soft">
          <tr>
            <th class="w-40 py-1 font-normal">when</th>
            <th class="w-48 font-normal">who</th>
            <th class="w-28 font-normal">by</th>
            <th class="font-normal">what</th>
            <th class="w-36 font-normal">estate</th>
            <th class="w-24 font-normal">became</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in page.entries" :key="one.id" class="border-t border-hair align-baseline">
            <td class="py-1 whitespace-nowrap" :title="one.at">{{ when(one.at) }}</td>
            <td class="truncate" :title="one.who">{{ one.who }}</td>
            <td class="truncate text-soft" :title="one.by">{{ one.by }}</td>
            <td>
              <span class="block">{{ one.about }}</span>
              <span
                class="mono block truncate text-xs text-soft"
                :title="`request ${one.request}`"
                >{{ one.what }}</span
              >
            </td>
            <td class="truncate">{{ one.estate }}</td>
            <td :class="one.status !== null && one.status < 400 ? '' : 'text-leak'">
              {{ became(one.status) }}
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="text-soft">Nothing in the record is like that.</p>
      <p class="mt-3 flex gap-3">
        <button
          v-if="from > 0"
          type="button"
          class="action"
          :disabled="isBusy"
          @click="from = Math.max(0, from - COUNT)"
        >
          Newer
        </button>
        <button
          v-if="from + COUNT < page.total"
          type="button"
          class="action"
          :disabled="isBusy"
          @click="from += COUNT"
        >
          Older
        </button>
      </p>
    </template>
    <p v-else-if="!failure" role="status" class="text-soft">Reading the record …</p>
  </div>
</template>
