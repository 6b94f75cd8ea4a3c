import {
  findingsQuery,
  type FindingsChosen,
  type FindingsPage,
  type ListedFinding,
} from '~/composables/useFindings'

const AT_ONCE = 500

/** Every finding that is chosen, in its groups, fetched piece by piece. */
export async function fetchFindings(
  base: string,
  chosen: Partial<FindingsChosen>,
): Promise<ListedFinding[]> {
  const all: ListedFinding[] = []
  for (let total = 1; all.length < total;) {
    const piece = await $fetch<FindingsPage>(`${base}/findings`, {
      query: { ...findingsQuery(chosen), from: all.length, count: AT_ONCE },
    })
    total = piece.total
    all.push(...piece.findings)
    if (piece.findings.length === 0) break
  }
  return all
}
