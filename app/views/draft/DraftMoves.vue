<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import type { Moved, NotMoved, Operation, WayOut } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'
import { failureText } from '~/api/failure-text'
import { changeLine } from '~/consequences/change-line'
import { wordsIn } from '~/views/draft/words-in'
import { MOVES, moveOf, type Filled } from '~/views/draft/moves'

/**
 * Ready-made moves: each a small form that shows its change and consequences before it is taken.
 */
const estate = useEstate()
const draft = useDraft()
const foresight = useDraftForesight()
const { tryChange } = useTry()
const route = useRoute()
const name = choiceInAddress(
  'move',
  'push',
  MOVES.map((one) => one.name),
  'way-out',
)
const kind = computed(() => MOVES.find((one) => one.name === name.value)!)
const listIn = (key: string): string[] => {
  const given = route.query[key]
  return typeof given === 'string' && given !== '' ? given.split(',') : []
}
const filled = ref<Filled>({ subnets: listIn('subnets'), failing: listIn('failing'), by: 'one' })
watch(name, (now) => {
  filled.value = { subnets: filled.value.subnets ?? [], by: now === 'way-out' ? 'one' : '' }
})
const { answer: objects } = useAnswer<'objects'>(() =>
  estate.outline?.draft ? { base: estate.fixedBase!, path: 'objects' } : null,
)
const { answer: ways } = useAnswer<'ways-out'>(() => {
  const subnets = filled.value.subnets ?? []
  return name.value === 'way-out' && subnets.length > 0 && estate.outline?.draft
    ? {
        base: estate.fixedBase!,
        path: 'ways-out',
        query: {
          subnets: [...subnets].join(','),
          addresses: wordsIn(String(filled.value.addresses ?? '')).join(','),
        },
      }
    : null
})

const outcome = shallowRef<Moved | NotMoved | null>(null)
const failure = ref('')
/** The version of the draft that the outcome was made in. */
let seen = 0
let asked = 0
async function look(): Promise<void> {
  const mine = ++asked
  const move = moveOf(kind.value, filled.value)
  outcome.value = null
  failure.value = ''
  foresight.pending = []
  if (move === null || !estate.outline?.draft) return
  seen = estate.outline.draft.version
  try {
    const found = await $fetch<Moved | NotMoved>(`${estate.fixedBase}/moves`, {
      method: 'POST',
      body: move,
    })
    if (mine !== asked) return
    outcome.value = found
    foresight.pending = found.ok ? found.change : []
  } catch (error) {
    if (mine === asked) failure.value = failureText(error)
  }
}
const lookSoon = useDebounceFn(look, 250)
watch([filled, name, () => estate.fixedBase], () => void lookSoon(), {
  deep: true,
  immediate: true,
})
onScopeDispose(() => (foresight.pending = []))

async function take(): Promise<void> {
  if (!outcome.value?.ok) return
  const made = await draft.change(
    outcome.value.what,
    outcome.value.change as readonly Operation[],
    seen,
  )
  if (made === null) return
  outcome.value = null
  foresight.pending = []
  filled.value = { by: 'one' }
}
/** The outage alone, of the base: it answers what goes down, whatever else is tried here. */
async function outage(): Promise<void> {
  if (outcome.value?.ok)
    await tryChange(outcome.value.what, outcome.value.what, outcome.value.change, 'outage')
}
const BY = { one: 'one for each network', zone: 'one for each zone', subnet: 'one for each subnet' }
const lost = ({ onLoss }: WayOut): string => {
  const harmful = onLoss.filter(({ subnets }) => subnets.length > 0)
  if (onLoss.length === 0) return 'bound to no zone'
  return harmful.length === 0
    ? 'no subnet of another zone'
    : harmful.map(({ zone, subnets }) => `${zone}: ${subnets.join(', ')}`).join('; ')
}
const MOST_LINES = 8
</script>

<template>
  <div class="grid min-h-0 flex-1 grid-cols-[9.5rem_minmax(0,1fr)]" aria-label="Moves">
    <ul class="min-h-0 overflow-y-auto border-r border-hair py-2 pl-4">
      <li v-for="one in MOVES" :key="one.name">
        <button
          type="button"
          class="w-full cursor-pointer py-0.5 text-left"
          :class="one.name === name ? 'border-r-2 border-draft font-semibold' : 'text-soft'"
          :aria-pressed="one.name === name"
          @click="name = one.name"
        >
          {{ one.title }}
        </button>
      </li>
    </ul>
    <div class="min-h-0 overflow-y-auto px-4 py-2" tabindex="0" aria-label="The move">
      <p class="mb-2 text-soft">{{ kind.says }}</p>
      <MoveForm v-model="filled" :fields="kind.fields" :objects="objects" />
      <table
        v-if="ways && ways.ways.some(({ made }) => made.ok)"
        class="mt-3 w-full border-collapse"
      >
        <caption class="sr-only">
          Ways out side by side
        </caption>
        <thead>
          <tr class="border-b border-ink text-left text-xs text-soft">
            <th class="py-1 font-medium">NATs</th>
            <th class="py-1 font-medium">an hour</th>
            <th class="py-1 font-medium">where its NATs stand, a lost zone cuts off</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="one in ways.ways"
            :key="one.by"
            class="border-b border-hair align-top"
            :class="one.by === filled.by ? 'bg-draft-wash' : ''"
          >
            <th scope="row" class="py-1 pr-2 text-left font-normal">
              <button
                type="button"
                class="cursor-pointer text-left underline"
                @click="filled = { ...filled, by: one.by }"
              >
                {{ BY[one.by] }}
              </button>
              <span class="text-xs text-soft"> {{ one.nats }}</span>
            </th>
            <td class="mono py-1 pr-2">{{ one.perHour ?? '–' }}</td>
            <td class="py-1">{{ one.made.ok ? lost(one) : one.made.message }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="failure" role="alert" class="mt-3 text-leak">{{ failure }}</p>
      <p v-else-if="outcome && !outcome.ok" role="status" class="mt-3 text-weak">
        {{ outcome.message }}
      </p>
      <section v-else-if="outcome?.ok" class="mt-3" aria-label="What it does">
        <p class="font-semibold first-letter:uppercase">{{ outcome.what }}</p>
        <p v-for="note in outcome.notes" :key="note" class="text-weak">{{ note }}</p>
        <ul class="my-1">
          <li
            v-for="(operation, at) in outcome.change.slice(0, MOST_LINES)"
            :key="at"
            class="mono break-all text-soft"
          >
            {{ changeLine(operation) }}
          </li>
          <li v-if="outcome.change.length > MOST_LINES" class="text-xs text-soft">
            and {{ outcome.change.length - MOST_LINES }} more
          </li>
        </ul>
        <button
          type="button"
          class="action action-main"
          :disabled="draft.isBusy || foresight.state === 'invalid'"
          @click="take"
        >
          Take it into the draft
        </button>
        <button
          v-if="name === 'fail'"
          type="button"
          class="action ml-2"
          :disabled="draft.isBusy"
          @click="outage"
        >
          As an outage of its own
        </button>
      </section>
    </div>
  </div>
</template>
