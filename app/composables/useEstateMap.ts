import type { EstateGraph } from '@salt-trail/core'
import type { ElkNode } from 'elkjs/lib/elk-api'
import { inColumns, layoutRequest, placed, type PlacedMap } from '~/map/layout'
import { failureText } from '~/stores/estate'

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
  const graph = shallowRef<EstateGraph | null>(null)
  const map = shallowRef<PlacedMap | null>(null)
  const failure = ref('')
  watch(
    [() => estate.base, () => opened().join(','), () => estate.outline],
    async ([base, open]) => {
      if (!estate.outline) return
      failure.value = ''
      const isCurrent = (): boolean => base === estate.base && open === opened().join(',')
      try {
        const found = await $fetch<EstateGraph>(`${base}/map`, {
          query: open === '' ? {} : { open },
        })
        const answer = inColumns(found) ?? (await (await layouter()).layout(layoutRequest(found)))
        if (!isCurrent()) return
        graph.value = found
        map.value = placed(found, answer)
      } catch (error) {
        if (isCurrent()) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { graph, map, failure }
}
