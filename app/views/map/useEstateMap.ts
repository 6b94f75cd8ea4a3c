import { graphBetween, type GraphDifference, type MapChange } from '@salt-trail/core'
import type { ElkNode } from 'elkjs/lib/elk-api'
import { inColumns, layoutRequest, placed, type PlacedMap } from '~/views/map/layout'
import { failureText } from '~/api/failure-text'
import { useAnswer } from '~/api/useAnswer'

let elk: Promise<{ layout: (graph: ElkNode) => Promise<ElkNode> }> | undefined

/** The layout package, in a worker of its own; fetched when a map is first looked at. */
function layouter() {
  elk ??= Promise.all([
    import('elkjs/lib/elk-api.js'),
    import('elkjs/lib/elk-worker.min.js?url'),
  ]).then(
    ([{ default: ELK }, { default: workerUrl }]) =>
      new ELK({ workerFactory: () => new Worker(workerUrl) }),
  )
  return elk
}

/**
 * The map of the revision on screen, laid out; asked for again when other networks are opened. With
 * the number of another revision, the map of both, and what is only in one of them.
 */
export function useEstateMap(opened: () => readonly string[], since: () => number | null) {
  const estate = useEstate()
  const mapOf = (base: string) => {
    const open = opened().join(',')
    return { base, path: 'map', ...(open === '' ? {} : { query: { open } }) } as const
  }
  const { answer, failure: refused } = useAnswer<'map'>(() =>
    estate.fixedBase === null ? null : mapOf(estate.fixedBase),
  )
  const { answer: earlier, failure: noEarlier } = useAnswer<'map'>(() => {
    const number = since()
    return number === null ? null : mapOf(estate.baseOf(String(number)))
  })
  const wanted = computed((): GraphDifference | null => {
    if (answer.value === null) return null
    if (since() === null) return { graph: answer.value, changes: new Map() }
    return earlier.value && graphBetween(earlier.value, answer.value)
  })
  // The map before stays on screen until the next one is laid out.
  const shown = shallowRef<(GraphDifference & { readonly map: PlacedMap }) | null>(null)
  const notLaidOut = ref('')
  watch(
    wanted,
    async (next) => {
      if (next === null) return
      notLaidOut.value = ''
      const { graph } = next
      try {
        const laid = inColumns(graph) ?? (await (await layouter()).layout(layoutRequest(graph)))
        if (next === wanted.value) shown.value = { ...next, map: placed(graph, laid) }
      } catch (error) {
        if (next === wanted.value) notLaidOut.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return {
    graph: computed(() => shown.value?.graph ?? null),
    map: computed(() => shown.value?.map ?? null),
    changes: computed((): ReadonlyMap<string, MapChange> => shown.value?.changes ?? new Map()),
    failure: computed(() => refused.value ?? noEarlier.value ?? notLaidOut.value),
  }
}
