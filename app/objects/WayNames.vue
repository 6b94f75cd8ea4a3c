<script setup lang="ts">
/** A way as the objects it leads through, each leading to its page. */
defineProps<{
  way: readonly string[]
  /** What is said where a way leads through nothing. */
  none: string
}>()
</script>

<template>
  <span
    ><template v-for="(one, at) in way" :key="at"
      ><template v-if="at > 0">, then </template
      ><template v-if="one === 'internet'">the built-in door</template
      ><ObjectName v-else-if="one.includes('/')" :of="one" @click.stop /><template v-else>{{
        one
      }}</template></template
    ><template v-if="way.length === 0">{{ none }}</template></span
  >
</template>
