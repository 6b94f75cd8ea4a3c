import type { FindingFamily, Severity } from '@salt-trail/core'
import { useInfiniteQuery } from '@pinia/colada'
import type { FindingsPage } from '~/api/answers'
import { keyOf } from '~/api/useAnswer'
import { ask, type Asked } from '~/api/request'
import { failureText } from '~/api/failure-text'
import type { SingleGrouping } from '~/views/findings/finding-words'

export interface FindingsChosen {
  readonly by: SingleGrouping
  readonly family: FindingFamily | null
  readonly severity: Severity | null
  readonly network: string | null
  readonly text: string
  /** Routes to what is gone, and what nothing uses. */
  readonly about?: 'left-behind' | null
  /** Those of this root cause alone. */
  readonly rootCause?: string | null
}

/** What the server is asked for those that are chosen. */
export const findingsQuery = ({
  by,
  family,
  severity,
  network,
  text,
  about,
  rootCause,
}: Partial<FindingsChosen>): Record<string, string> => ({
  ...(by ? { by } : {}),
  ...(family ? { family } : {}),
  ...(severity ? { severity } : {}),
  ...(network ? { network } : {}),
  ...(about ? { about } : {}),
  ...(rootCause ? { rootCause } : {}),
  ...(text?.trim() ? { text: text.trim() } : {}),
})

const AT_ONCE = 200

/**
 * The findings that are chosen, in groups, the most severe of each first; more are fetched when
 * they are asked for. None where nothing is chosen.
 */
export function useFindings(chosen: () => FindingsChosen | null) {
  const estate = useEstate()
  const asked = computed((): Asked<'findings'> | null =>
    estate.fixedBase === null || !estate.isDone || chosen() === null
      ? null
      : { base: estate.fixedBase, path: 'findings', query: findingsQuery(chosen()!) },
  )
  const { data, error, loadNextPage } = useInfiniteQuery<FindingsPage, Error, number>({
    // A key of its own: queries that are fetched page by page hold more than others.
    key: () =>
      asked.value ? ['findings pages', ...keyOf(asked.value)] : ['findings pages', 'nothing asked'],
    query: ({ pageParam, signal }) => {
      const { query, ...one } = asked.value!
      return ask<'findings'>(
        { ...one, query: { ...query, from: pageParam, count: AT_ONCE } },
        signal,
      )
    },
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const fetched = all.reduce((sum, { findings }) => sum + findings.length, 0)
      return last.findings.length === 0 || fetched >= last.total ? null : fetched
    },
    enabled: () => asked.value !== null,
    // What was chosen before stays on screen until the next is there.
    placeholderData: (previous) => previous,
  })
  const found = computed((): FindingsPage | null => {
    const pages = data.value?.pages
    const first = pages?.[0]
    return asked.value && first
      ? { ...first, findings: pages.flatMap(({ findings }) => findings) }
      : null
  })

  return {
    found,
    failure: computed(() => (error.value && asked.value ? failureText(error.value) : null)),
    more: () => loadNextPage(),
  }
}
