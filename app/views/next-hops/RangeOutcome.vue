<script setup lang="ts">
import type { HopRangeJson } from '@salt-trail/core'
import { fareText } from '~/views/next-hops/range-words'

/** What becomes of packets to a range: the way they take, or why they are lost. */
defineProps<{ range: HopRangeJson }>()
</script>

<template>
  <NamedText
    v-if="range.cause"
    :text="fareText(range)"
    :objects="[range.cause.object, ...(range.cause.inner ? [range.cause.inner.object] : [])]"
  />
  <WayNames v-else :way="range.way" none="handed over inside the network" />
</template>
