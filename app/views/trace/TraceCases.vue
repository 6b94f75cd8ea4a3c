<script setup lang="ts">
import type { Case, Cases } from '@salt-trail/core'
import { caseName, caseText } from '~/views/trace/cases'

/**
 * A question that fares in several ways: by family, one beside the other, and by span of ports. The
 * chosen one is shown whole below.
 */
const props = defineProps<{ found: Cases; chosen: Case | null }>()
const emit = defineEmits<{ choose: [one: Case] }>()
const families = computed(() =>
  [4, 6]
    .map((family) => props.found.cases.filter((one) => one.family === family))
    .filter((cases) => cases.length > 0),
)
</script>

<template>
  <nav
    aria-label="By family and port"
    class="grid gap-x-6"
    :class="families.length > 1 ? 'grid-cols-2' : ''"
  >
    <ul v-for="cases in families" :key="cases[0]!.family" class="max-h-48 overflow-y-auto">
      <li v-for="one in cases" :key="one.ports?.from ?? 0">
        <button
          type="button"
          class="flex w-full cursor-pointer items-baseline gap-2 border-b px-1 py-1 text-left"
          :class="one === chosen ? 'border-ink bg-wash' : 'border-hair text-soft hover:text-ink'"
          :aria-pressed="one === chosen"
          @click="emit('choose', one)"
        >
          <ProblemMark v-if="one.cause" mark="hole" :size="13" label="fails" />
          <span class="shrink-0 font-semibold">{{ caseName(one, found) }}</span>
          <span>{{ caseText(one) }}</span>
        </button>
      </li>
    </ul>
    <p v-if="found.more" class="col-span-full py-1 text-soft" role="status">
      Ports {{ found.more.from }} to {{ found.more.to }} were not looked at: there are too many
      spans before them. Ask for fewer ports.
    </p>
  </nav>
</template>
