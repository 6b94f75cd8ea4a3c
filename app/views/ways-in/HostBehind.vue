<script setup lang="ts">
import { useGrowingAnswer } from '~/api/useGrowingAnswer'

/** What a host that is reached from outside opens up behind it: a second step for who got there. */
const props = defineProps<{ host: string }>()
const estate = useEstate()
const { answer, failure } = useGrowingAnswer<'behind'>(
  () =>
    estate.fixedBase === null
      ? null
      : { base: estate.fixedBase, path: 'behind', query: { host: props.host } },
  ({ isDone }) => isDone,
)
const MOST = 24
</script>

<template>
  <p v-if="failure" class="py-1 text-leak" role="alert">{{ failure }}</p>
  <p v-else-if="!answer" class="py-1 text-soft" role="status">looking behind it …</p>
  <p v-else class="py-1" role="status">
    <template v-if="answer.opens.length > 0"
      >Whoever is on {{ host }} reaches
      <template v-for="(ref, at) in answer.opens.slice(0, MOST)" :key="ref"
        >{{ at > 0 ? ', ' : '' }}<ObjectName :of="ref" /></template
      >{{ answer.opens.length > MOST ? ` and ${answer.opens.length - MOST} more` : '' }}.</template
    >
    <template v-else-if="answer.isDone"
      >Whoever is on {{ host }} reaches no host outside its subnet.</template
    >
    <span v-if="answer.cut > 0" class="text-soft">
      {{ answer.cut }} hosts have too many kinds of packets, and were not looked through.</span
    >
    <span v-if="!answer.isDone" class="text-soft">
      {{ answer.looked }} of {{ answer.hosts }} hosts looked at …</span
    >
  </p>
</template>
