/**
 * A draft is a base and a log of changes made in it one after the other. The log only grows: what
 * is undone is undone by an entry of its own, so that a version of the draft (how many entries were
 * there) names the same state for good, and whoever saw an earlier version can still be followed.
 */
import { apply, invert, rebase, type Change, type Conflict, type Failed } from '../changes/index'
import type { Estate } from '../format/estate'

/** One entry of the log. */
export interface DraftEntry {
  /** Its number: the version of the draft once it is there. */
  readonly number: number
  /** What it does, as a sentence without its full stop. */
  readonly what: string
  readonly author: string
  /** The entry that it undoes; null for a change. */
  readonly undoes: number | null
  readonly change: Change
}

/** What of an entry says whether it stands. */
type NumberedEntry = Pick<DraftEntry, 'number' | 'undoes'>

/**
 * The changes of a draft in their order, and whether each stands: false once it was undone. One
 * pass over the log; what the entries change is not looked at.
 */
export function changesOf<E extends NumberedEntry>(
  log: readonly E[],
): (E & { readonly stands: boolean })[] {
  const undone = undoneIn(log)
  return log
    .filter(({ undoes }) => undoes === null)
    .map((entry) => ({ ...entry, stands: !undone.has(entry.number) }))
}

/** The numbers of entries that are undone; an undoing that is undone itself does not count. */
function undoneIn(log: readonly NumberedEntry[]): ReadonlySet<number> {
  const undone = new Set<number>()
  for (const { number, undoes } of [...log].reverse())
    if (undoes !== null && !undone.has(number)) undone.add(undoes)
  return undone
}

/** Everything the log does as one change. */
export const changeOf = (log: readonly DraftEntry[]): Change => log.flatMap(({ change }) => change)

/** The number of the change that undoing takes back next; null where none stands. */
export const nextUndo = (log: readonly DraftEntry[]): number | null =>
  [...changesOf(log)].reverse().find(({ stands }) => stands)?.number ?? null

/**
 * The number of the undoing that is taken back next; null where the last thing that was done is no
 * undoing.
 */
export function nextRedo(log: readonly DraftEntry[]): number | null {
  const undone = undoneIn(log)
  const stand = log.filter(({ number }) => !undone.has(number))
  // What undoes an undoing stands in the log behind it, and is passed over.
  const last = [...stand].reverse().find((entry) => !undoesAnUndoing(log, entry))
  return last && last.undoes !== null ? last.number : null
}

const undoesAnUndoing = (log: readonly DraftEntry[], { undoes }: DraftEntry): boolean =>
  undoes !== null && log.find(({ number }) => number === undoes)!.undoes !== null

/** Why an entry cannot be taken back alone. */
export interface RestsOn {
  readonly ok: false
  /** Later entries that write the same place, or a place inside of what it brought. */
  readonly entries: readonly number[]
}

/**
 * The change that takes an entry of the log back, made after everything that came later. Fails
 * where later entries rest on it. Costs a pass over the log from that entry on.
 */
export function takingBack(
  base: Estate,
  whole: readonly DraftEntry[],
  number: number,
): { readonly ok: true; readonly change: Change } | RestsOn | Failed {
  const log = reduced(whole, number)
  const at = log.findIndex((entry) => entry.number === number)
  const before = apply(base, changeOf(log.slice(0, at)))
  if (!before.ok) return before
  const inverse = invert(before.estate, log[at]!.change)
  if (!inverse.ok) return inverse
  let state = apply(before.estate, log[at]!.change)
  let { change } = inverse
  const blocking: number[] = []
  for (const later of log.slice(at + 1)) {
    if (!state.ok) return state
    const moved = rebase(state.estate, change, later.change)
    if (!moved.ok) return moved
    if (moved.conflicts.length > 0) blocking.push(later.number)
    change = moved.change
    state = apply(state.estate, later.change)
  }
  if (blocking.length === 0) return { ok: true, change }
  return { ok: false, entries: blocking }
}

/**
 * The log without what was undone at once: an entry and the next one, which takes it back. One
 * entry is kept in any case.
 */
function reduced(log: readonly DraftEntry[], kept: number): DraftEntry[] {
  const left: DraftEntry[] = []
  for (const entry of log) {
    const isBack = entry.undoes !== null && left.at(-1)?.number === entry.undoes
    if (isBack && entry.number !== kept && entry.undoes !== kept) left.pop()
    else left.push(entry)
  }
  return left
}

/**
 * A change that was made in an earlier version of the draft, as it is made after all that came
 * since, with what it is in conflict with.
 */
export function madeLater(
  base: Estate,
  log: readonly DraftEntry[],
  seen: number,
  change: Change,
):
  { readonly ok: true; readonly change: Change; readonly conflicts: readonly Conflict[] } | Failed {
  const since = log.filter(({ number }) => number > seen)
  if (since.length === 0) return { ok: true, change, conflicts: [] }
  const then = apply(base, changeOf(log.filter(({ number }) => number <= seen)))
  return then.ok ? rebase(then.estate, change, changeOf(since)) : then
}
