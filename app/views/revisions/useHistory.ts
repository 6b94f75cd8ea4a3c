import { useQuery } from '@pinia/colada'
import type { RevisionHistory } from '~/api/answers'
import { ask } from '~/api/request'
import { failureText } from '~/api/failure-text'

/** The revisions of the estate on screen with how much was wrong with each, the newest first. */
export function useHistory() {
  const estate = useEstate()
  // An analysis that ends adds to what is known, so the answer is fetched whenever it is shown.
  const { data, error, refetch } = useQuery<RevisionHistory[]>(() => ({
    key: ['history', estate.slug ?? '', estate.outline?.head ?? 0, estate.isDone ? 1 : 0],
    query: ({ signal }) => $fetch(`/api/estates/${estate.slug}/history`, { signal }),
    enabled: estate.slug !== null,
    staleTime: 0,
  }))
  const history = computed((): readonly RevisionHistory[] | null => data.value ?? null)

  const analysing = ref(false)
  const refused = ref('')
  /** Analyses the revisions that were not, one after the other, and shows each as it is done. */
  async function analyseAll(): Promise<void> {
    analysing.value = true
    refused.value = ''
    try {
      for (const { number, counts } of history.value ?? []) {
        if (counts !== null) continue
        await ask({
          base: estate.baseOf(String(number)),
          path: 'findings',
          query: { count: 1 },
        })
        await refetch()
      }
    } catch (failed) {
      refused.value = failureText(failed)
    } finally {
      analysing.value = false
    }
  }
  const failure = computed(() => (error.value === null ? refused.value : failureText(error.value)))
  return { history, failure, analysing, analyseAll }
}
