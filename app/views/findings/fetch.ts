import type { ListedFinding } from '~/api/answers'
import { ask } from '~/api/request'
import { findingsQuery, type FindingsChosen } from '~/views/findings/useFindings'

const AT_ONCE = 500

/** Every finding that is chosen, in its groups, fetched piece by piece. */
export async function fetchFindings(
  base: string,
  chosen: Partial<FindingsChosen>,
): Promise<ListedFinding[]> {
  const all: ListedFinding[] = []
  for (let total = 1; all.length < total;) {
    const query = { ...findingsQuery(chosen), from: all.length, count: AT_ONCE }
    const piece = await ask({ base, path: 'findings', query })
    total = piece.total
    all.push(...piece.findings)
    if (piece.findings.length === 0) break
  }
  return all
}
