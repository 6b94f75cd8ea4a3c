import type { Finding, FindingFamily, Severity } from '@salt-trail/core'
import { FAMILIES } from '~/findings/finding-words'
import { failureText } from '~/stores/estate'

export interface FindingsChosen {
  readonly family: FindingFamily | null
  readonly severity: Severity | null
  readonly text: string
}

export interface Acceptance {
  readonly reason: string
  readonly author: string
  /** The last day on which it holds; null for good. */
  readonly until: string | null
}

/** A finding with what was said when it was accepted. */
export interface AcceptedFinding extends Finding {
  readonly accepted: Acceptance | null
}

export interface FindingsGroup {
  readonly family: FindingFamily
  /** How many there are like that; of them those that were fetched. */
  readonly total: number
  readonly findings: readonly AcceptedFinding[]
}

const AT_ONCE = 200

/** The findings that are chosen, family by family, the gravest first; more of a family are fetched when they are asked for. */
export function useFindings(chosen: () => FindingsChosen) {
  const estate = useEstate()
  const groups = shallowRef<readonly FindingsGroup[] | null>(null)
  const failure = ref<string | null>(null)
  let asked = 0

  async function page(family: FindingFamily, from: number): Promise<FindingsGroup> {
    const { severity, text } = chosen()
    const query = { family, from, count: AT_ONCE, ...(severity ? { severity } : {}), ...(text.trim() ? { text: text.trim() } : {}) }
    const { total, findings } = await $fetch<{ total: number; findings: AcceptedFinding[] }>(`${estate.base}/findings`, { query })
    return { family, total, findings }
  }

  watch(
    [() => estate.base, () => estate.isDone, () => ({ ...chosen() })],
    async ([, done], before) => {
      // Typing and choosing give a new object each time; only another choice is asked anew.
      if (before[1] === done && groups.value !== null && JSON.stringify(before[2]) === JSON.stringify(chosen()) && before[0] === estate.base) return
      if (!done) {
        groups.value = null
        return
      }
      const mine = ++asked
      failure.value = null
      try {
        const wanted = FAMILIES.filter(({ family }) => chosen().family === null || chosen().family === family)
        const found = await Promise.all(wanted.map(({ family }) => page(family, 0)))
        if (mine === asked) groups.value = found.filter((group) => group.total > 0)
      } catch (error) {
        if (mine === asked) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )

  async function more(family: FindingFamily): Promise<void> {
    const mine = asked
    const group = groups.value?.find((one) => one.family === family)
    if (!group) return
    try {
      const next = await page(family, group.findings.length)
      if (mine !== asked || !groups.value) return
      groups.value = groups.value.map((one) => (one === group ? { ...one, findings: [...one.findings, ...next.findings] } : one))
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
      const said = (one: AcceptedFinding): AcceptedFinding => (one.fingerprint === fingerprint ? { ...one, accepted: acceptance } : one)
      groups.value = groups.value?.map((group) => ({ ...group, findings: group.findings.map(said) })) ?? null
      await estate.countAgain()
    } catch (error) {
      refused.value = failureText(error)
    }
  }

  return { groups, failure, more, accept, refused }
}
