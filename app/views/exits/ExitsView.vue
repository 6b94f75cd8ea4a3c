<script setup lang="ts">
import { onKeyStroke, refDebounced, useClipboard, watchDebounced } from '@vueuse/core'
import { arrange, GROUPINGS, MOST_UNFOLDED } from '~/views/exits/arrange'
import { placeText, readPlace } from '~/views/exits/place'
import { useBaseCells } from '~/views/exits/useBaseCells'
import { exitsTable } from '~/views/exits/table'
import type { TableText } from '~/tables/table-text'
import type { Direction } from '~/views/exits/cells'
import { showEnd } from '~/questions/question-text'

/** Home: by which way the traffic of every subnet leaves. */
const estate = useEstate()
const router = useRouter()
const { move } = useTry()
const questions = useQuestions()
const matrix = ref<{ focus: () => void; compare: () => void } | null>(null)
useHead({ title: computed(() => `Exits, ${estate.outline?.name ?? 'Salt Trail'}`) })

const only = choiceInAddress('only', 'push', ['all', 'problems'], 'all')
const onlyProblems = computed({
  get: () => only.value === 'problems',
  set: (problems) => (only.value = problems ? 'problems' : 'all'),
})
const by = choiceInAddress('by', 'push', GROUPINGS, 'network')
const direction = choiceInAddress<Direction>('turned', 'push', ['leaving', 'entering'], 'leaving')
const opened = textInAddress('open', 'push')
const open = computed(() => opened.value.split(',').filter(Boolean))
function toggleColumn(column: string): void {
  const next = open.value.includes(column)
    ? open.value.filter((one) => one !== column)
    : [...open.value, column]
  opened.value = next.join(',')
}
const like = textInAddress('like', 'push')
const wanted = textInAddress('find', 'replace')
const text = ref(wanted.value)
const find = refDebounced(text, 150)
watch(find, (now) => (wanted.value = now))
// Going back restores the text, too.
watch(wanted, (now) => (text.value = now))

/** Moving leaves no step to go back to; a comparison does. */
const selectedSubnet = useSelectedSubnet()
const at = textInAddress('at', 'replace')
const place = shallowRef(
  readPlace(at.value) ?? (selectedSubnet.value === null ? null : readPlace(selectedSubnet.value)),
)
watchDebounced(place, (now) => (at.value = now ? placeText(now) : ''), { debounce: 300 })
watch(place, (now) => (selectedSubnet.value = now?.subnet ?? selectedSubnet.value))
const comparedPair = textInAddress('compared', 'push')
const compared = computed({
  get: () => {
    const [a, b] = comparedPair.value.split(' ')
    return a && b ? ([a, b] as const) : null
  },
  set: (pair: readonly [string, string] | null) => (comparedPair.value = pair?.join(' ') ?? ''),
})

/** Rows that are alike are folded where there are more than fit, unless somebody looks for some. */
const alike = choiceInAddress('alike', 'push', ['folded', 'all'], 'folded')
const isLarge = computed(() => (estate.outline?.subnets.length ?? 0) > MOST_UNFOLDED)
const openedText = textInAddress('opened', 'push')
const unfolded = computed(() => new Set(openedText.value.split(',').filter(Boolean)))
function toggleFold(id: string): void {
  const next = new Set(unfolded.value)
  if (!next.delete(id)) next.add(id)
  openedText.value = [...next].join(',')
}
/** Who comes from another view to a subnet sees its own row. */
const soughtSubnet = place.value?.subnet ?? ''
const apart = computed(() => {
  const sought = estate.outline?.subnets.find(({ id }) => id === soughtSubnet)
  return new Set(sought ? [sought.id, sought.network] : [])
})
const folds = computed(() => isLarge.value && alike.value === 'folded' && find.value.trim() === '')

const arranged = (isFolded: boolean) =>
  estate.outline
    ? arrange(estate.outline, estate.exits ?? [], {
        by: by.value,
        onlyProblems: onlyProblems.value,
        direction: direction.value,
        find: find.value.trim().toLowerCase(),
        folded: isFolded ? { opened: unfolded.value, apart: apart.value } : null,
      })
    : []
const items = computed(() => arranged(folds.value))
const table = (): TableText => exitsTable(arranged(false))
const shown = computed(() =>
  items.value.reduce((sum, item) => sum + (item.kind === 'subnet' ? item.all.length : 0), 0),
)
const marked = computed(() => {
  const rowsWith = (family: string): number =>
    (estate.exits ?? []).filter((row) =>
      Object.values(direction.value === 'entering' ? row.entering : row.findings).some((found) =>
        found?.some((one) => one.family === family),
      ),
    ).length
  return { leak: rowsWith('leak'), hole: rowsWith('hole'), weak: rowsWith('weak') }
})
/** Cells of the open draft that differ from its base. */
const baseCells = useBaseCells(() => direction.value)
const changedCells = computed(() =>
  [...baseCells.value.values()].reduce((sum, row) => sum + row.size, 0),
)
const selected = shallowRef<ReadonlySet<string>>(new Set())
watch(
  () => estate.base,
  () => (selected.value = new Set()),
)
const { copy, copied } = useClipboard()

function ask(question: { from: string; to: string }): void {
  const ends = estate.outline?.ends ?? []
  const over = 'tcp 443'
  questions.text = { from: showEnd(question.from, ends), to: showEnd(question.to, ends), over }
  questions.remember({ ...questions.text })
  void router.push({
    path: `/${estate.slug}/${estate.revision}/trace`,
    query: { ...question, over },
  })
}

onKeyStroke('t', (event) => {
  if (!isTyping(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey)
    direction.value = direction.value === 'leaving' ? 'entering' : 'leaving'
})
onKeyStroke('p', (event) => {
  if (!isTyping(event.target)) onlyProblems.value = !onlyProblems.value
})
const count = (n: number, one: string, many: string): string =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
const keys = computed(() => [
  { keys: 'arrows', does: 'move' },
  { keys: 'Enter', does: 'trace' },
  { keys: 'c', does: 'compare' },
  { keys: 't', does: 'turn' },
  { keys: 'x', does: 'select' },
  { keys: 'Space', does: 'peek' },
  { keys: 'p', does: 'only problems' },
  ...(folds.value ? [{ keys: 'o', does: 'open alike' }] : []),
  { keys: 'Shift ↑ ↓', does: 'select further' },
  { keys: 'PgUp PgDn Home End', does: 'further' },
])
</script>

<template>
  <AppShell :keys="keys">
    <div v-if="estate.outline && estate.exits" class="flex h-full flex-col">
      <h1 class="sr-only">Exits of {{ estate.outline.name }}</h1>
      <div class="toolbar text-soft">
        <label class="flex items-center gap-1.5"
          ><select
            v-model="direction"
            aria-label="Which way the matrix looks"
            class="border-b border-rule bg-ground py-0.5 text-ink"
          >
            <option value="leaving">leaving</option>
            <option value="entering">entering</option>
          </select>
          by
          <select
            v-model="by"
            aria-label="Grouped by"
            class="border-b border-rule bg-ground py-0.5 text-ink"
          >
            <option v-for="one in GROUPINGS" :key="one" :value="one">{{ one }}</option>
          </select>
        </label>
        <label class="flex cursor-pointer items-center gap-1.5">
          <input v-model="onlyProblems" type="checkbox" class="accent-focus" />
          only problems
        </label>
        <label v-if="isLarge" class="flex cursor-pointer items-center gap-1.5">
          <input
            :checked="alike === 'folded'"
            type="checkbox"
            class="accent-focus"
            @change="alike = alike === 'folded' ? 'all' : 'folded'"
          />
          alike as one
        </label>
        <label class="flex items-center gap-1.5"
          >with
          <input
            v-model="text"
            type="search"
            class="w-44 border-b border-rule bg-ground px-1 py-0.5 text-ink"
            placeholder="name, range or way"
          />
        </label>
        <span v-if="shown < estate.outline.subnets.length"
          >{{ shown.toLocaleString('en-GB') }} of
          {{ estate.outline.subnets.length.toLocaleString('en-GB') }}</span
        >
        <CopyTable :name="`exits-${direction}`" :table="table" />
        <span
          v-if="selected.size > 0"
          class="ml-auto flex items-center gap-3 text-ink"
          role="status"
        >
          {{ selected.size }} selected
          <button
            type="button"
            class="cursor-pointer border-b border-ink"
            @click="matrix?.compare()"
          >
            compare
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-ink"
            @click="copy([...selected].join('\n'))"
          >
            {{ copied ? 'copied' : 'copy names' }}
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-ink"
            @click="move({ move: 'associate', subnets: [...selected].join(',') })"
          >
            change in a draft
          </button>
          <button
            type="button"
            class="cursor-pointer border-b border-ink"
            @click="selected = new Set()"
          >
            clear
          </button>
        </span>
        <template v-else>
          <span v-if="changedCells > 0" class="ml-auto border-b-2 border-draft text-ink">
            {{ count(changedCells, 'cell differs', 'cells differ') }} from the base
          </span>
          <span class="flex items-center gap-1.5" :class="changedCells > 0 ? '' : 'ml-auto'"
            ><ProblemMark mark="leak" />
            {{ count(marked.leak, 'row with leaks', 'rows with leaks') }}</span
          >
          <span class="flex items-center gap-1.5"
            ><ProblemMark mark="hole" />
            {{ count(marked.hole, 'with black holes', 'with black holes') }}</span
          >
          <span v-if="marked.weak > 0" class="flex items-center gap-1.5"
            ><ProblemMark mark="weak" /> {{ marked.weak.toLocaleString('en-GB') }} with weak
            spots</span
          >
        </template>
      </div>
      <ExitMatrix
        ref="matrix"
        v-model:place="place"
        v-model:compared="compared"
        class="min-h-0 flex-1"
        :outline="estate.outline"
        :rows="estate.exits"
        :items="items"
        :open="open"
        :selected="selected"
        :direction="direction"
        :like="like"
        :base-cells="baseCells"
        @like="like = $event"
        @trace="ask"
        @toggle="toggleColumn"
        @select="selected = $event"
        @fold="toggleFold"
      >
        <p class="p-4 text-soft">
          {{
            estate.outline.subnets.length === 0
              ? 'This estate has no subnets yet.'
              : onlyProblems
                ? 'No subnet has a problem here.'
                : 'No subnet matches.'
          }}
        </p>
      </ExitMatrix>
    </div>
    <LoadState v-else />
  </AppShell>
</template>
