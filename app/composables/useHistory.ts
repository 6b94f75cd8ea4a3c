import { failureText } from '~/stores/estate'
import type { RevisionInfo } from '~/stores/outline'

export interface RevisionHistory extends RevisionInfo {
  /** How much was wrong with it; null where it is not analysed. */
  readonly counts: {
    readonly leak: number
    readonly hole: number
    readonly weak: number
    readonly broken: number
  } | null
}

/** The revisions of the estate on screen with how much was wrong with each, the newest first. */
export function useHistory() {
  const estate = useEstate()
  const history = shallowRef<readonly RevisionHistory[] | null>(null)
  const failure = ref('')
  async function fetchHistory(): Promise<void> {
    const slug = estate.slug
    if (!slug) return
    try {
      const found = await $fetch<RevisionHistory[]>(`/api/estates/${slug}/history`)
      if (slug === estate.slug) history.value = found
      failure.value = ''
    } catch (error) {
      if (slug === estate.slug) failure.value = failureText(error)
    }
  }
  watch([() => estate.slug, () => estate.outline?.head, () => estate.isDone], fetchHistory, {
    immediate: true,
  })

  /** Has those analysed that were not, one after the other, and tells as each is done. */
  const analysing = ref(false)
  async function analyseAll(): Promise<void> {
    analysing.value = true
    try {
      for (const { number, counts } of history.value ?? []) {
        if (counts !== null) continue
        await $fetch(`/api/estates/${estate.slug}/${number}/findings`, { query: { count: 1 } })
        await fetchHistory()
      }
    } catch (error) {
      failure.value = failureText(error)
    } finally {
      analysing.value = false
    }
  }
  return { history, failure, analysing, analyseAll }
}
