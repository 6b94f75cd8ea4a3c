<script setup lang="ts">
import { shadowing, type Route, type RouteTarget, type Via } from '@salt-trail/core'

/**
 * The routes of a table as rows: each leads to something that can be a target here, and says what
 * it shadows and what shadows it.
 */
const props = defineProps<{ routes: readonly Route[]; targets: readonly RouteTarget[] }>()
const emit = defineEmits<{ change: [routes: readonly Route[]] }>()
const to = ref('')
const via = ref('')

const keyOf = (one: Via): string => JSON.stringify(one)
const target = (key: string): Via | undefined =>
  props.targets.find((one) => keyOf(one.via) === key)?.via
const destination = (route: Route): string =>
  typeof route.to === 'string' ? route.to : Object.values(route.to).join('')
const value = (event: Event): string => (event.target as HTMLInputElement).value

const put = (at: number, route: Route): void =>
  emit(
    'change',
    props.routes.map((one, index) => (index === at ? route : one)),
  )
function add(): void {
  const chosen = target(via.value)
  if (to.value === '' || chosen === undefined) return
  emit('change', [...props.routes, { to: to.value, via: chosen }])
  to.value = ''
  via.value = ''
}
/** What a route to a destination meets among the others, in words. */
function says(destinationText: string): string {
  const { shadows, shadowedBy } = shadowing(props.routes, destinationText)
  return [
    ...(shadows.length > 0 ? [`wins over ${shadows.join(', ')} there`] : []),
    ...(shadowedBy.length > 0 ? [`loses to ${shadowedBy.join(', ')} there`] : []),
  ].join('; ')
}
</script>

<template>
  <div class="min-w-0">
    <div
      v-for="(route, at) in routes"
      :key="at"
      class="grid grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_1.5rem] items-baseline gap-x-2 py-0.5"
    >
      <TypedInput
        class="mono min-w-0 border-b border-rule bg-transparent"
        :value="destination(route)"
        :readonly="typeof route.to !== 'string'"
        :aria-label="`destination of route ${at + 1}`"
        @typed="put(at, { ...route, to: $event })"
      />
      <select
        class="mono min-w-0 border-b border-rule bg-paper"
        :value="keyOf(route.via)"
        :aria-label="`next hop of route ${at + 1}`"
        @change="put(at, { ...route, via: target(value($event)) ?? route.via })"
      >
        <option v-if="target(keyOf(route.via)) === undefined" :value="keyOf(route.via)">
          {{ typeof route.via === 'string' ? route.via : Object.values(route.via).join('') }}
        </option>
        <option v-for="one in targets" :key="one.says" :value="keyOf(one.via)">
          {{ one.says }}
        </option>
      </select>
      <button
        type="button"
        class="cursor-pointer text-faint hover:text-ink"
        :aria-label="`remove the route to ${destination(route)}`"
        @click="
          emit(
            'change',
            routes.filter((_, index) => index !== at),
          )
        "
      >
        ×
      </button>
      <p v-if="says(destination(route))" class="col-span-3 text-xs text-soft">
        {{ says(destination(route)) }}
      </p>
    </div>
    <div
      class="grid grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_1.5rem] items-baseline gap-x-2 py-0.5"
    >
      <input
        v-model.trim="to"
        class="mono min-w-0 border-b border-rule bg-transparent placeholder:text-faint"
        placeholder="0.0.0.0/0"
        aria-label="destination of a new route"
        spellcheck="false"
        @keydown.enter.prevent="add"
      />
      <select
        v-model="via"
        class="mono min-w-0 border-b border-rule bg-paper"
        aria-label="next hop of a new route"
      >
        <option value="">leads to …</option>
        <option v-for="one in targets" :key="one.says" :value="keyOf(one.via)">
          {{ one.says }}
        </option>
      </select>
      <button type="button" class="cursor-pointer font-semibold" aria-label="add it" @click="add">
        +
      </button>
      <p v-if="to && says(to)" class="col-span-3 text-xs text-soft">{{ says(to) }}</p>
    </div>
  </div>
</template>
