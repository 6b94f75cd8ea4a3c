<script setup lang="ts">
import type { Outline } from '~/api/answers'
import { subnetChoices, subnetNamed } from '~/questions/subnet-named'

/** Which subnet a view is about: by its name, a host in it, or an address, each typed in part. */
const props = defineProps<{ outline: Outline; subnet: string }>()
const emit = defineEmits<{ choose: [subnet: string] }>()
const typed = ref(props.subnet)
watch(
  () => props.subnet,
  (subnet) => (typed.value = subnet),
)
const choices = computed(() => subnetChoices(props.outline))
const unknown = ref('')
watch(typed, () => (unknown.value = ''))
function settle(): void {
  const named = subnetNamed(typed.value, choices.value, props.outline.subnets)
  if (named === null) {
    unknown.value = `no one subnet, host or address here is "${typed.value}"`
    return
  }
  typed.value = named
  emit('choose', named)
}
const about = computed(() => props.outline.subnets.find((one) => one.id === props.subnet))
</script>

<template>
  <div class="flex items-baseline gap-3">
    <form class="w-72 border-b border-ink" @submit.prevent="settle">
      <EndField
        v-model="typed"
        label="subnet"
        placeholder="a subnet, a host or an address"
        :choices="choices"
        @done="settle"
        @answer="settle"
      />
    </form>
    <template v-if="about">
      <ObjectName class="text-xs" :of="`subnets/${about.id}`" says="its page" />
      <span class="mono text-soft">{{ about.ranges.join('  ') }}</span>
      <span class="text-xs text-soft"
        >{{ about.network }}, {{ about.zone ?? about.region ?? 'no zone'
        }}{{ about.role ? `, declared ${about.role}` : '' }}</span
      >
    </template>
    <span v-if="unknown" class="text-xs text-leak" role="alert">{{ unknown }}</span>
  </div>
</template>
