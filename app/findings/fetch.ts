import type { FindingFamily, Severity } from '@salt-trail/core'
import type { AcceptedFinding } from '~/composables/useFindings'

const AT_ONCE = 500

/** Every finding that is like that, the gravest first, fetched piece by piece. */
export async function fetchFindings(
  base: string,
  wanted: { family?: FindingFamily | null; severity?: Severity | null; text?: string },
): Promise<AcceptedFinding[]> {
  const { family, severity, text = '' } = wanted
  const chosen = { ...(family ? { family } : {}), ...(severity ? { severity } : {}), ...(text.trim() ? { text: text.trim() } : {}) }
  const all: AcceptedFinding[] = []
  for (let total = 1; all.length < total;) {
    const piece = await $fetch<{ total: number; findings: AcceptedFinding[] }>(`${base}/findings`, { query: { ...chosen, from: all.length, count: AT_ONCE } })
    total = piece.total
    all.push(...piece.findings)
    if (piece.findings.length === 0) break
  }
  return all
}
