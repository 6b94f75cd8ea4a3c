<script setup lang="ts">
import type { Outline } from '~/api/answers'

/** Which subnet a view is about, typed or chosen. */
const props = defineProps<{ outline: Outline; subnet: string }>()
const emit = defineEmits<{ choose: [subnet: string] }>()
// Two of them may be on screen.
const listId = useId()
const typed = ref(props.subnet)
watch(
  () => props.subnet,
  (subnet) => (typed.value = subnet),
)
const known = computed(() => new Set(props.outline.subnets.map((one) => one.id)))
function settle(): void {
  if (known.value.has(typed.value)) emit('choose', typed.value)
}
const about = computed(() => props.outline.subnets.find((one) => one.id === props.subnet))
</script>

<template>
  <div class="flex items-baseline gap-3">
    <label class="flex items-baseline gap-2 text-xs text-soft"
      >subnet
      <input
        v-model="typed"
        :list="listId"
        class="w-64 border-b border-ink bg-ground px-1 py-0.5 text-base font-semibold text-ink"
        spellcheck="false"
        @change="settle"
        @keydown.enter="settle"
      />
    </label>
    <datalist :id="listId">
      <option v-for="one in outline.subnets.slice(0, 500)" :key="one.id" :value="one.id" />
    </datalist>
    <template v-if="about">
      <ObjectName class="text-xs" :of="`subnets/${about.id}`" says="its page" />
      <span class="mono text-soft">{{ about.ranges.join('  ') }}</span>
      <span class="text-xs text-soft"
        >{{ about.network }}, {{ about.zone ?? about.region ?? 'no zone'
        }}{{ about.role ? `, declared ${about.role}` : '' }}</span
      >
    </template>
    <span v-if="typed && !known.has(typed)" class="text-xs text-leak">there is no such subnet</span>
  </div>
</template>
