import { useQueryCache } from '@pinia/colada'
import type { Acceptance, FindingsPage, ListedFinding } from '~/api/answers'
import { failureText } from '~/api/failure-text'

/** Accepts findings and root causes; the lists and the counts follow. */
export function useAcceptance() {
  const estate = useEstate()
  const account = useAccount()
  const cache = useQueryCache()
  const refused = ref<string | null>(null)

  /** What is said of a finding, or of all that a root cause decides, in the pages that list them. */
  function sayInPages(fingerprint: string, acceptance: Acceptance | null): void {
    const accepted = acceptance && { ...acceptance, author: account.name, fingerprint }
    const said = (one: ListedFinding): ListedFinding =>
      one.fingerprint === fingerprint || one.rootCause === fingerprint ? { ...one, accepted } : one
    for (const { key } of cache.getEntries({ key: ['findings pages'] }))
      cache.setQueryData<{ pages: FindingsPage[]; pageParams: number[] }>(key, (pages) => ({
        pageParams: pages?.pageParams ?? [],
        pages: (pages?.pages ?? []).map((page) => ({ ...page, findings: page.findings.map(said) })),
      }))
  }

  /** Accepts what has a fingerprint, or with null takes that back. */
  async function accept(fingerprint: string, acceptance: Acceptance | null): Promise<void> {
    refused.value = null
    const path = `/api/estates/${estate.slug}/acceptances/${fingerprint}`
    try {
      if (acceptance) await $fetch(path, { method: 'PUT', body: acceptance })
      else await $fetch(path, { method: 'DELETE' })
      sayInPages(fingerprint, acceptance)
      void cache.invalidateQueries({ key: ['root causes'] })
      await estate.countAgain()
    } catch (failed) {
      refused.value = failureText(failed)
    }
  }
  return { accept, refused }
}
