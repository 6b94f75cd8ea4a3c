<script setup lang="ts">
import type { Objects } from '~/api/answers'
import { FAILING, type Filled, type MoveField } from '~/views/draft/moves'

/** The fields of a move, which offer what is in the draft. */
const props = defineProps<{ fields: readonly MoveField[]; objects: Objects | null }>()
const filled = defineModel<Filled>({ required: true })
const estate = useEstate()

const value = (event: Event): string => (event.target as HTMLInputElement).value
const text = (key: string): string => {
  const held = filled.value[key]
  return typeof held === 'string' ? held : ''
}
const list = (key: string): readonly string[] => {
  const held = filled.value[key]
  return Array.isArray(held) ? held : []
}
const set = (key: string, now: string | readonly string[]): void =>
  void (filled.value = { ...filled.value, [key]: now })
const idsOf = (section: string): readonly string[] =>
  props.objects?.sections.find((one) => one.section === section)?.ids ?? []

interface Offered {
  readonly value: string
  readonly says: string
}
const zones = (): Offered[] => {
  const all = props.objects?.zones ?? []
  return all.map(({ region, zone }) => {
    const isOnly = all.filter((one) => one.zone === zone).length === 1
    return { value: isOnly ? zone : `${region}/${zone}`, says: `zone ${zone} of ${region}` }
  })
}
/** What may be added to a list. */
function offered(field: MoveField): readonly Offered[] {
  return field.kind === 'subnets'
    ? (estate.outline?.subnets ?? []).map(({ id, network }) => ({
        value: id,
        says: `${id} in ${network}`,
      }))
    : field.kind === 'failing'
      ? [
          ...zones().map((one) => ({ ...one, value: `zone:${one.value}` })),
          ...FAILING.flatMap((section) =>
            idsOf(section).map((id) => ({ value: `${section}/${id}`, says: `${section}/${id}` })),
          ),
        ]
      : field.section === 'zones'
        ? zones().map(({ value: zone, says }) => ({ value: zone.split('/').at(-1)!, says }))
        : (field.choices ?? idsOf(field.section ?? '').map((id) => ({ value: id, says: id })))
}
const isList = ({ kind }: MoveField): boolean =>
  kind === 'subnets' || kind === 'ids' || kind === 'failing'
/** All subnets of the networks of those chosen. */
function addNetwork(): void {
  const all = estate.outline?.subnets ?? []
  const networks = new Set(
    all.filter(({ id }) => list('subnets').includes(id)).map(({ network }) => network),
  )
  set(
    'subnets',
    all.filter(({ network }) => networks.has(network)).map(({ id }) => id),
  )
}
</script>

<template>
  <form aria-label="What the move needs" @submit.prevent>
    <div
      v-for="field in fields"
      :key="field.key"
      class="grid grid-cols-[8rem_minmax(0,1fr)] items-baseline gap-x-3 border-b border-hair py-1"
    >
      <label :for="`move-${field.key}`" class="text-soft">{{ field.label }}</label>
      <ChosenList
        v-if="isList(field)"
        :id="`move-${field.key}`"
        :chosen="list(field.key)"
        :offered="offered(field)"
        @change="set(field.key, $event)"
      >
        <button
          v-if="field.kind === 'subnets' && list(field.key).length > 0"
          type="button"
          class="cursor-pointer text-xs underline"
          @click="addNetwork"
        >
          all of the network
        </button>
      </ChosenList>
      <select
        v-else-if="field.kind === 'choice'"
        :id="`move-${field.key}`"
        class="border-b border-rule bg-paper py-0.5"
        :value="text(field.key)"
        @change="set(field.key, value($event))"
      >
        <option value="">choose …</option>
        <option v-for="one in field.choices" :key="one.value" :value="one.value">
          {{ one.says }}
        </option>
      </select>
      <span v-else-if="field.kind === 'flag'" class="flex items-baseline gap-2">
        <input
          :id="`move-${field.key}`"
          type="checkbox"
          :checked="text(field.key) !== ''"
          @change="set(field.key, ($event.target as HTMLInputElement).checked ? 'yes' : '')"
        /><span class="text-soft">{{ field.hint }}</span>
      </span>
      <span v-else>
        <input
          :id="`move-${field.key}`"
          class="mono w-full border-b border-rule bg-transparent py-0.5 placeholder:text-faint"
          :type="field.kind === 'number' ? 'number' : 'text'"
          :list="field.kind === 'id' ? `choices-${field.key}` : undefined"
          :value="text(field.key)"
          :placeholder="field.hint"
          autocomplete="off"
          spellcheck="false"
          @input="set(field.key, value($event))"
        />
        <datalist v-if="field.kind === 'id'" :id="`choices-${field.key}`">
          <option v-for="one in idsOf(field.section ?? '')" :key="one" :value="one" />
        </datalist>
      </span>
    </div>
  </form>
</template>
