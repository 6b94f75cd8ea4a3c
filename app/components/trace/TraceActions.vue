<script setup lang="ts">
import { traceText, type Trace } from '@salt-trail/core'
import { useClipboard } from '@vueuse/core'

/** The answer taken along: as text for a message, as the document that the command line and the API give. */
const props = defineProps<{ answer: Trace }>()
const { copy, copied, isSupported } = useClipboard({ legacy: true })

function save(): void {
  const { from, to } = props.answer.question
  const url = URL.createObjectURL(new Blob([`${JSON.stringify(props.answer, null, 2)}\n`], { type: 'application/json' }))
  const link = document.createElement('a')
  link.href = url
  link.download = `${`${from} to ${to}`.replaceAll(/[^A-Za-z0-9.-]+/g, '-')}.json`
  link.click()
  URL.revokeObjectURL(url)
}
</script>

<template>
  <div class="flex gap-3 text-xs">
    <button v-if="isSupported" type="button" class="cursor-pointer underline" @click="copy(traceText(answer))">{{ copied ? 'copied' : 'copy as text' }}</button>
    <button type="button" class="cursor-pointer underline" @click="save">save as JSON</button>
    <span class="sr-only" role="status">{{ copied ? 'The trace was copied as text' : '' }}</span>
  </div>
</template>
