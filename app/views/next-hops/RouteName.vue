<script setup lang="ts">
import type { RouteJson } from '@salt-trail/core'

/** A route: its destinations, its origin, and what it leads to. */
defineProps<{ route: RouteJson }>()
const name = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
</script>

<template>
  <span class="block"
    ><span class="mono">{{ route.to }}</span
    >{{ ' '
    }}<span class="text-xs text-soft"
      >{{ route.origin }},
      <ObjectName
        v-if="route.target.includes('/')"
        :of="route.target"
        :says="name(route.target)"
        @click.stop
      /><template v-else>{{ name(route.target) }}</template></span
    ></span
  >
</template>
