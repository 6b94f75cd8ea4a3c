import { useQuery } from '@pinia/colada'
import type { RevisionInfo } from '~/api/answers'
import { failureText } from '~/api/failure-text'

/**
 * The revisions of the estate on screen, the newest first; asked for again when a newer one is
 * shown.
 */
export function useRevisions() {
  const estate = useEstate()
  const { data, error } = useQuery<RevisionInfo[]>(() => ({
    key: ['revisions', estate.slug ?? '', estate.outline?.head ?? 0],
    query: ({ signal }) => $fetch(`/api/estates/${estate.slug}/revisions`, { signal }),
    enabled: estate.slug !== null,
  }))
  return {
    revisions: computed((): readonly RevisionInfo[] => data.value ?? []),
    failure: computed(() => (error.value === null ? null : failureText(error.value))),
  }
}
