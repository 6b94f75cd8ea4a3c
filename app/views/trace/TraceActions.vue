<script setup lang="ts">
import { traceText, type Trace } from '@salt-trail/core'
import { useClipboard } from '@vueuse/core'
import { saveText } from '~/tables/save'
import { expectationQuery } from '~/views/expectations/written'

/**
 * The answer taken along: as text for a message, as the document that the command line and the API
 * give.
 */
const props = defineProps<{ answer: Trace }>()
const { copy, copied, isSupported } = useClipboard({ legacy: true })

const estate = useEstate()
const route = useRoute()
function save(): void {
  const { from, to } = props.answer.question
  saveText(
    `${`${from} to ${to}`.replaceAll(/[^A-Za-z0-9.-]+/g, '-')}.json`,
    `${JSON.stringify(props.answer, null, 2)}\n`,
    'application/json',
  )
}
const print = (): void => window.print()
</script>

<template>
  <div class="flex gap-3 text-xs">
    <button
      v-if="isSupported"
      type="button"
      class="cursor-pointer underline"
      @click="copy(traceText(answer))"
    >
      {{ copied ? 'copied' : 'copy as text' }}
    </button>
    <button type="button" class="cursor-pointer underline" @click="save">save as JSON</button>
    <button type="button" class="cursor-pointer underline" @click="print">print</button>
    <NuxtLink
      class="underline"
      :to="{
        path: `/${estate.slug}/${estate.revision}/map`,
        query: {
          ...{ from: route.query.from, to: route.query.to },
          ...{ over: route.query.over, family: route.query.family },
        },
      }"
      >on the map</NuxtLink
    >
    <NuxtLink
      class="underline"
      :to="{
        path: `/${estate.slug}/${estate.revision}/expectations`,
        query: expectationQuery(
          answer.question,
          answer.verdict === 'works' ? 'reach' : 'never-reach',
        ),
      }"
      >this must stay so</NuxtLink
    >
    <span class="sr-only" role="status">{{ copied ? 'The trace was copied as text' : '' }}</span>
  </div>
</template>
