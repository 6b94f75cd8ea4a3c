import {
  apply,
  changeBetween,
  complete,
  rebase,
  type Change,
  type Conflict,
} from '../changes/index'
import { isValid } from '../format/check'
import type { Estate } from '../format/estate'
import { changesOf, type DraftEntry } from './log'

/** A change of a draft that could not follow its base as it was meant. */
export interface DraftConflict {
  readonly what: string
  readonly author: string
  /** The change as it was meant. */
  readonly mine: Change
  /** Why: what stands there now, or what is wrong with the estate it would leave. */
  readonly reason: string
  /** Whether the change was made all the same, over what stands there. */
  readonly kept: boolean
}

export interface Rebased {
  /** The changes that stand, numbered from `first`, as they are made in the new base. */
  readonly log: readonly DraftEntry[]
  readonly conflicts: readonly DraftConflict[]
}

/**
 * A draft on another base: its changes that stand, one by one, as they are to be made in that one.
 * A change that wrote what the new base wrote otherwise is made all the same, and told; one that
 * cannot be made, or would leave an invalid estate, is set aside, and told. What the new base holds
 * already is left out. `base` is null where it is gone: then changes are tried as they stand. Costs
 * a check of the estate for each change.
 */
export function rebasedOnto(
  base: Estate | null,
  log: readonly DraftEntry[],
  onto: Estate,
  first: number,
): Rebased {
  let theirs = base === null ? [] : changeBetween(base, onto)
  let own = base
  let state = onto
  const kept: DraftEntry[] = []
  const conflicts: DraftConflict[] = []
  for (const entry of log) {
    const moved = own === null ? asItStands(entry.change) : rebase(own, entry.change, theirs)
    const other = own === null ? null : rebase(own, theirs, entry.change)
    const after = own === null ? null : apply(own, entry.change)
    if (after?.ok && other?.ok) {
      own = after.estate
      theirs = [...other.change]
    }
    if (!stands(log, entry)) continue
    const change = moved.ok ? moved.change : entry.change
    const made = apply(state, complete(state, change))
    const found = moved.ok ? moved.conflicts : []
    const reason = !made.ok
      ? made.failure.message
      : !isValid(made.estate, state)
        ? 'the estate would be invalid after it'
        : found.map(conflictText).join('; ')
    const isMade = made.ok && isValid(made.estate, state)
    const isKept = made.ok && isMade && change.length > 0
    const { what, author } = entry
    if (reason !== '') conflicts.push({ what, author, mine: entry.change, reason, kept: isKept })
    if (!isKept) continue
    kept.push({ ...entry, number: first + kept.length, change: complete(state, change) })
    state = made.estate
  }
  return { log: kept, conflicts }
}

const asItStands = (
  change: Change,
): { readonly ok: true; readonly change: Change; readonly conflicts: readonly Conflict[] } => ({
  ok: true,
  change,
  conflicts: [],
})

const stands = (log: readonly DraftEntry[], { number }: DraftEntry): boolean =>
  changesOf(log).find((one) => one.number === number)?.stands === true

/** What a conflict is, with both sides. */
export function conflictText({ operation, kind, theirs }: Conflict): string {
  if (kind === 'gone') return `${operation.path} is gone`
  const now = theirs === undefined ? 'taken out' : JSON.stringify(theirs)
  const mine = operation.op === 'remove' ? 'taken out' : JSON.stringify(operation.value)
  return `${operation.path} was also changed by others: theirs is ${now}, here ${mine}`
}
