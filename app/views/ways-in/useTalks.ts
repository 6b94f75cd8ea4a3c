import type { Talk } from '@salt-trail/core'
import type { Answer } from '~/api/answers'
import { ask } from '~/api/request'
import { failureText } from '~/api/failure-text'

type Talks = Answer<'/api/estates/{estate}/{revision}/talks'>

/**
 * Whom each of some networks can talk to: asked network by network, each until it is whole, as long
 * as the view is there.
 */
export function useTalks(networks: () => readonly string[]) {
  const estate = useEstate()
  const known = shallowRef<ReadonlyMap<string, Talks>>(new Map())
  const failure = ref<string | null>(null)
  watch(
    () => JSON.stringify([estate.fixedBase, networks()]),
    async (_now, _was, onCleanup) => {
      const gone = new AbortController()
      onCleanup(() => gone.abort())
      const base = estate.fixedBase
      known.value = new Map()
      failure.value = null
      if (base === null) return
      try {
        for (const from of networks())
          for (let whole = false; !whole;) {
            const next = await ask<'talks'>({ base, path: 'talks', query: { from } }, gone.signal)
            if (gone.signal.aborted) return
            known.value = new Map(known.value).set(from, next)
            whole = next.talks.length >= next.networks
          }
      } catch (error) {
        if (!gone.signal.aborted) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  const talkOf = (from: string, to: string): Talk | null =>
    known.value.get(from)?.talks.find((one) => one.to === to) ?? null
  return { talkOf, failure }
}
