<script setup lang="ts">
import { carve, isPrefixFault, parsePrefix } from '@salt-trail/core'
import { freeText } from '~/views/addresses/free-words'

/** The subnets in a range: the first and the last address that hosts can have, and what is free. */
interface Carved {
  readonly subnet: string
  readonly prefix: string
  readonly taken: number
  readonly usable: string
}
const props = defineProps<{ carved: readonly Carved[]; current: string | null }>()
const emit = defineEmits<{ choose: [subnet: string] }>()
/** More rows than this open when they are asked for. */
const MOST_ROWS = 12
const isOpen = ref(false)
const rows = computed(() =>
  (isOpen.value ? props.carved : props.carved.slice(0, MOST_ROWS)).map((one) => {
    const prefix = parsePrefix(one.prefix)
    const part = isPrefixFault(prefix) ? null : carve(prefix, prefix.length).parts[0]!
    return { ...one, first: part?.first ?? 'none', last: part?.last ?? 'none' }
  }),
)
</script>

<template>
  <table v-if="carved.length > 0" class="mt-1 w-full border-collapse">
    <thead>
      <tr class="text-left text-xs text-soft">
        <th class="py-0.5 font-medium">subnet</th>
        <th class="py-0.5 font-medium">range</th>
        <th class="py-0.5 font-medium">first usable</th>
        <th class="py-0.5 font-medium">last usable</th>
        <th class="py-0.5 font-medium">free</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="one in rows"
        :key="`${one.subnet} ${one.prefix}`"
        class="border-t border-hair"
        :class="one.subnet === current ? 'bg-wash' : ''"
      >
        <td class="py-0.5 pr-3">
          <button
            type="button"
            class="cursor-pointer underline decoration-rule underline-offset-2"
            @click="emit('choose', one.subnet)"
          >
            {{ one.subnet }}
          </button>
        </td>
        <td class="mono py-0.5 pr-3 break-all">{{ one.prefix }}</td>
        <td class="mono py-0.5 pr-3 break-all">{{ one.first }}</td>
        <td class="mono py-0.5 pr-3 break-all">{{ one.last }}</td>
        <td class="py-0.5">{{ freeText(one) }}</td>
      </tr>
    </tbody>
  </table>
  <button
    v-if="carved.length > MOST_ROWS && !isOpen"
    type="button"
    class="cursor-pointer text-xs underline"
    @click="isOpen = true"
  >
    {{ carved.length - MOST_ROWS }} more subnets
  </button>
</template>
