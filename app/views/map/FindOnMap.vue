<script setup lang="ts">
import type { EstateGraph } from '@salt-trail/core'
import { choicesNamed, complete, type EndChoice } from '~/questions/question-text'
import { subnetChoices, subnetNamed, subnetOf } from '~/questions/subnet-named'

/** Finds a mark by a part of its name; a host or an address leads to its subnet. */
const props = defineProps<{ graph: EstateGraph }>()
const emit = defineEmits<{ found: [ref: string] }>()
const estate = useEstate()
const text = ref('')
const unknown = ref(false)
watch(text, () => (unknown.value = false))

const idOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
const marks = computed((): EndChoice[] => [
  ...props.graph.nodes.map(({ ref }) => ({
    end: ref,
    id: idOf(ref),
    about: ref.slice(0, ref.indexOf('/')),
  })),
  ...(estate.outline?.networks ?? []).map(({ id, title, ranges }) => ({
    end: `networks/${id}`,
    id,
    about: ['network', title, ...ranges].filter(Boolean).join(' '),
  })),
])
const choices = computed(() => {
  const subnets = estate.outline ? subnetChoices(estate.outline) : []
  const known = new Set(marks.value.map(({ end }) => end))
  return [
    ...new Map(marks.value.map((mark) => [mark.end, mark])).values(),
    ...subnets.filter((one) => !known.has(`subnets/${subnetOf(one)}`) || one.home !== undefined),
  ]
})

function refOf(word: string): string | null {
  const mark = choicesNamed(word, marks.value)[0]
  if (mark) return mark.end
  const subnet = estate.outline
    ? subnetNamed(word, subnetChoices(estate.outline), estate.outline.subnets)
    : null
  if (subnet !== null) return `subnets/${subnet}`
  const meant = complete(word, marks.value, 2)
  return meant.length === 1 ? meant[0]!.end : null
}
function settle(): void {
  const ref = text.value.trim() === '' ? null : refOf(text.value.trim())
  unknown.value = ref === null
  if (ref === null) return
  text.value = ''
  emit('found', ref)
}
</script>

<template>
  <form class="w-44 border-b border-rule" @submit.prevent="settle">
    <EndField
      v-model="text"
      label="find"
      placeholder="a name, an address"
      :choices="choices"
      @done="settle"
      @answer="settle"
    />
    <span v-if="unknown" class="absolute bg-paper px-2 py-1 text-xs text-leak" role="alert"
      >no one thing here is "{{ text }}"</span
    >
  </form>
</template>
