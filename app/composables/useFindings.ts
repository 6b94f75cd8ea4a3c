import type { Finding, FindingFamily, Severity } from '@salt-trail/core'
import type { FindingsGrouping } from '~/findings/finding-words'
import { failureText } from '~/stores/estate'

export interface FindingsChosen {
  readonly by: FindingsGrouping
  readonly family: FindingFamily | null
  readonly severity: Severity | null
  readonly network: string | null
  readonly text: string
}

export interface Acceptance {
  readonly reason: string
  readonly author: string
  /** The last day on which it holds; null for good. */
  readonly until: string | null
}

/** A finding with the network it lies in, and what was said when it was accepted. */
export interface ListedFinding extends Finding {
  readonly network: string | null
  readonly accepted: Acceptance | null
}

export interface FindingsPage {
  readonly total: number
  readonly groups: readonly { readonly key: string | null; readonly total: number }[]
  readonly findings: readonly ListedFinding[]
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
  const found = shallowRef<FindingsPage | null>(null)
  const failure = ref<string | null>(null)
  let asked = 0

  const page = (from: number): Promise<FindingsPage> =>
    $fetch<FindingsPage>(`${estate.base}/findings`, {
      query: { ...findingsQuery(chosen()), from, count: AT_ONCE },
    })

  watch(
    [() => estate.base, () => estate.isDone, () => JSON.stringify(findingsQuery(chosen()))],
    async ([, done]) => {
      if (!done) {
        found.value = null
        return
      }
      const mine = ++asked
      failure.value = null
      try {
        const first = await page(0)
        if (mine === asked) found.value = first
      } catch (error) {
        if (mine === asked) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )

  async function more(): Promise<void> {
    const mine = asked
    const before = found.value
    if (!before) return
    try {
      const next = await page(before.findings.length)
      if (mine === asked && found.value === before)
        found.value = { ...next, findings: [...before.findings, ...next.findings] }
    } catch (error) {
      if (mine === asked) failure.value = failureText(error)
    }
  }

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
      found.value = found.value && { ...found.value, findings: found.value.findings.map(said) }
      await estate.countAgain()
    } catch (error) {
      refused.value = failureText(error)
    }
  }

  return { found, failure, more, accept, refused }
}
