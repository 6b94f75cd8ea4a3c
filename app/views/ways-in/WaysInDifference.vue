<script setup lang="ts">
import { waysInBetween, type WayInFate } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'

/**
 * The ways into a subnet in the draft beside those in its base: who comes in by a way of one of
 * them alone, or by one that lets other packets through.
 */
const props = defineProps<{
  /** The number of the base. */
  since: number
}>()
const estate = useEstate()
const router = useRouter()
const route = useRoute()
const { subnet, answer: after, failure: notAfter } = useOfSubnet('ways-in')
/** A subnet that the draft adds is no subnet of the base. */
const { answer: outlineBefore, failure: noOutline } = useAnswer<'outline'>(() => ({
  base: estate.baseOf(String(props.since)),
  path: 'outline',
}))
const isInBase = computed(
  () => outlineBefore.value?.subnets.some(({ id }) => id === subnet.value) ?? false,
)
const { answer: before, failure: notBefore } = useAnswer<'ways-in'>(() =>
  isInBase.value
    ? {
        base: estate.baseOf(String(props.since)),
        path: 'ways-in',
        query: { subnet: subnet.value },
      }
    : null,
)
const failure = computed(() => notAfter.value ?? noOutline.value ?? notBefore.value)
const pairs = computed(() => {
  if (after.value === null || outlineBefore.value === null) return null
  if (isInBase.value && before.value === null) return null
  return waysInBetween(before.value, after.value)
})
const FATES: Readonly<Record<Exclude<WayInFate, 'same'>, { sign: string; text: string }>> = {
  opened: { sign: '+', text: 'opened by the draft' },
  closed: { sign: '−', text: 'closed by the draft' },
  altered: { sign: '+', text: 'in the draft' },
}
const rows = computed(() =>
  (pairs.value ?? []).flatMap(({ fate, before: was, after: now }) => {
    if (fate === 'same') return []
    const until = { sign: '−', text: 'in the base' }
    return fate === 'altered'
      ? [
          { key: `was ${was!.from} ${was!.to}`, way: was!, fate: until },
          { key: `now ${now!.from} ${now!.to}`, way: now!, fate: FATES.altered },
        ]
      : [
          {
            key: `${fate} ${(now ?? was)!.from} ${(now ?? was)!.to}`,
            way: (now ?? was)!,
            fate: FATES[fate],
          },
        ]
  }),
)
const same = computed(() => (pairs.value ?? []).filter(({ fate }) => fate === 'same').length)
const sets = computed(() => [
  ...new Set([...(after.value?.ruleSets ?? []), ...(before.value?.ruleSets ?? [])]),
])
const objects = computed(() => [`subnets/${subnet.value}`, ...sets.value])
const choose = (id: string): void => void router.push({ query: { ...route.query, subnet: id } })
</script>

<template>
  <section v-if="estate.outline" class="mt-4" :aria-label="`Ways into ${subnet}`">
    <SubnetChooser :outline="estate.outline" :subnet="subnet" @choose="choose" />
    <p v-if="failure" class="py-3 text-leak" role="alert">{{ failure }}</p>
    <p v-else-if="pairs === null" class="py-3 text-soft" role="status">
      asking for every packet, in both …
    </p>
    <p v-else-if="rows.length === 0" class="py-3 text-soft">
      Whoever reaches a host in {{ subnet }} from outside does so as in the base<template
        v-if="same > 0"
        >, by {{ same }} {{ same === 1 ? 'way' : 'ways' }}</template
      >.
    </p>
    <template v-else>
      <WaysInTable class="mt-2">
        <WayInRow
          v-for="row in rows"
          :key="row.key"
          :way="row.way"
          :objects="objects"
          :fate="row.fate"
        />
      </WaysInTable>
      <p v-if="same > 0" class="py-2 pl-4 text-soft">
        {{ same }} {{ same === 1 ? 'way in is' : 'ways in are' }} as in the base.
      </p>
    </template>
  </section>
</template>
