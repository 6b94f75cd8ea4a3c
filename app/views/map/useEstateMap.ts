import type { EstateGraph } from '@salt-trail/core'
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

/** The map of the revision on screen, laid out; asked for again when other networks are opened. */
export function useEstateMap(opened: () => readonly string[]) {
  const estate = useEstate()
  const { answer, failure: refused } = useAnswer<'map'>(() => {
    const open = opened().join(',')
    return estate.fixedBase === null
      ? null
      : { base: estate.fixedBase, path: 'map', ...(open === '' ? {} : { query: { open } }) }
  })
  // The map before stays on screen until the next one is laid out.
  const graph = shallowRef<EstateGraph | null>(null)
  const map = shallowRef<PlacedMap | null>(null)
  const notLaidOut = ref('')
  watch(
    answer,
    async (found) => {
      if (found === null) return
      notLaidOut.value = ''
      try {
        const laid = inColumns(found) ?? (await (await layouter()).layout(layoutRequest(found)))
        if (found !== answer.value) return
        graph.value = found
        map.value = placed(found, laid)
      } catch (error) {
        if (found === answer.value) notLaidOut.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { graph, map, failure: computed(() => refused.value ?? notLaidOut.value) }
}
