import type { FindingFamily, Severity } from '@salt-trail/core'
import { useInfiniteQuery, useQueryCache } from '@pinia/colada'
import type { Acceptance, FindingsPage, ListedFinding } from '~/api/answers'
import { keyOf } from '~/api/useAnswer'
import { ask, type Asked } from '~/api/request'
import { failureText } from '~/api/failure-text'
import type { FindingsGrouping } from '~/views/findings/finding-words'

export interface FindingsChosen {
  readonly by: FindingsGrouping
  readonly family: FindingFamily | null
  readonly severity: Severity | null
  readonly network: string | null
  readonly text: string
}

/** What the server is asked for those that are chosen. */
export const findingsQuery = ({
  by,
  family,
  severity,
  network,
  text,
}: Partial<FindingsChosen>): Record<string, string> => ({
  ...(by ? { by } : {}),
  ...(family ? { family } : {}),
  ...(severity ? { severity } : {}),
  ...(network ? { network } : {}),
  ...(text?.trim() ? { text: text.trim() } : {}),
})

const AT_ONCE = 200

/**
 * The findings that are chosen, in groups, the most severe of each first; more are fetched when
 * they are asked for.
 */
export function useFindings(chosen: () => FindingsChosen) {
  const estate = useEstate()
  const asked = computed((): Asked<'findings'> | null =>
    estate.fixedBase === null || !estate.isDone
      ? null
      : { base: estate.fixedBase, path: 'findings', query: findingsQuery(chosen()) },
  )
  const { data, error, loadNextPage } = useInfiniteQuery<FindingsPage, Error, number>({
    key: () => (asked.value ? ['findings pages', ...keyOf(asked.value)] : ['nothing asked']),
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

  const cache = useQueryCache()
  const refused = ref<string | null>(null)
  /** Accepts a finding, or with null takes that back; the list and the counts follow. */
  async function accept(fingerprint: string, acceptance: Acceptance | null): Promise<void> {
    refused.value = null
    const path = `/api/estates/${estate.slug}/acceptances/${fingerprint}`
    try {
      if (acceptance) await $fetch(path, { method: 'PUT', body: acceptance })
      else await $fetch(path, { method: 'DELETE' })
      const said = (one: ListedFinding): ListedFinding =>
        one.fingerprint === fingerprint ? { ...one, accepted: acceptance } : one
      for (const { key } of cache.getEntries({ key: ['findings pages'] }))
        cache.setQueryData<{ pages: FindingsPage[]; pageParams: number[] }>(key, (pages) => ({
          pageParams: pages?.pageParams ?? [],
          pages: (pages?.pages ?? []).map((page) => ({
            ...page,
            findings: page.findings.map(said),
          })),
        }))
      await estate.countAgain()
    } catch (failed) {
      refused.value = failureText(failed)
    }
  }

  return {
    found,
    failure: computed(() => (error.value && asked.value ? failureText(error.value) : null)),
    more: () => loadNextPage(),
    accept,
    refused,
  }
}
