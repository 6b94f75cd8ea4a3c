<script setup lang="ts">
import { namedParts } from '~/objects/named-parts'

/** A sentence of which the names of objects lead to their pages. */
const props = defineProps<{
  text: string
  /** The objects it may name, as `section/id`. */
  objects: readonly string[]
}>()
const parts = computed(() => namedParts(props.text, props.objects))
</script>

<template>
  <span
    ><template v-for="(part, at) in parts" :key="at"
      ><ObjectName v-if="part.of" :of="part.of" :says="part.text" @click.stop /><template v-else>{{
        part.text
      }}</template></template
    ></span
  >
</template>
