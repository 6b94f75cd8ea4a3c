import type { Talk } from '@salt-trail/core'
import { talkText } from '~/views/ways-in/exposure-words'

/** Networks to which the hosts of one network can send the same. */
export interface TalkRow {
  readonly text: string
  readonly to: readonly string[]
}

/** What can be sent comes first, then what is not known, and last what never gets there. */
function rank(talk: Talk | null): number {
  if (talk === null) return 2
  if (talk.open.length > 0) return 0
  if (talk.unanswered.length > 0) return 1
  return talk.isCut ? 2 : talk.hosts.from > 0 && talk.hosts.to > 0 ? 3 : 4
}

/**
 * Whom hosts of one network can talk to, a row for all networks of which the same is said, so that
 * the odd one among hundreds stands out.
 */
export function talkRows(
  others: readonly string[],
  talkOf: (to: string) => Talk | null,
): readonly TalkRow[] {
  const rows = new Map<string, { text: string; rank: number; to: string[] }>()
  for (const to of others) {
    const talk = talkOf(to)
    const text = talk === null ? '…' : talkText(talk)
    const row = rows.get(text)
    if (row) row.to.push(to)
    else rows.set(text, { text, rank: rank(talk), to: [to] })
  }
  return [...rows.values()].toSorted((a, b) => a.rank - b.rank)
}
