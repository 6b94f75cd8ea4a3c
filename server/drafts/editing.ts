import {
  apply,
  changeOf,
  changesOf,
  checkEstate,
  complete,
  madeLater,
  nextRedo,
  nextUndo,
  problemsJson,
  readChange,
  rebasedOnto,
  takingBack,
  type Change,
  type DraftConflict,
  type Estate,
  type Failed,
} from '@salt-trail/core'
import { Refused } from '../refused'
import { addEntry, putOnto, type Connection, type DraftInfo, type LoggedEntry } from './store'

/** A locked draft with its log and its base; the base is null where it is gone. */
export interface OpenDraft {
  readonly draft: DraftInfo
  readonly log: readonly LoggedEntry[]
  readonly base: Estate | null
}

/** What was done: the version it made, and what is to be told of it. */
export interface Edited {
  readonly version: number
  readonly warnings: readonly string[]
  readonly conflicts: readonly { readonly path: string; readonly theirs: unknown }[]
}

export interface NewChange {
  readonly what: string
  readonly author: string
  /** The version that whoever made it saw. */
  readonly seen: number
  /** A patch as RFC 6902 has it. */
  readonly patch: unknown
}

export function baseOrRefused({ base, draft }: OpenDraft): Estate {
  if (base !== null) return base
  throw new Refused(
    409,
    'base-gone',
    `revision ${draft.baseNumber}, which this draft was made in, is gone; put the draft on the newest revision to go on`,
  )
}

/** The estate as a draft makes it of its base. */
export function stateAt(open: OpenDraft, version = open.draft.version): Estate {
  const base = baseOrRefused(open)
  const made = apply(base, changeOf(open.log.filter(({ number }) => number <= version)))
  if (made.ok) return made.estate
  throw notMade(made)
}

export const notMade = ({ failure: { operation, path, message } }: Failed): Refused =>
  new Refused(
    422,
    'change-fails',
    `operation ${operation + 1} of the change (${path}) cannot be made: ${message}`,
    { operation, path },
  )

/**
 * A state that may stand in a draft; one that is invalid is refused with everything wrong in it.
 */
export function validOrRefused(estate: Estate, known: Estate): void {
  const { errors } = problemsJson(checkEstate(estate, known))
  if (errors.length === 0) return
  throw new Refused(
    422,
    'invalid-estate',
    `the estate would hold ${errors.length} error${errors.length === 1 ? '' : 's'} after it: ${errors[0]!.message}`,
    { errors },
  )
}

/**
 * So many operations are kept in a draft: each is made again whenever one of its states is asked
 * for.
 */
const MOST_OPERATIONS = 20_000

function roomOrRefused(log: readonly LoggedEntry[], more: Change): void {
  if (changeOf(log).length + more.length <= MOST_OPERATIONS) return
  throw new Refused(
    422,
    'draft-too-large',
    `a draft holds up to ${MOST_OPERATIONS} operations; save this one, and go on in the next`,
  )
}

/** Makes a change in a draft, after all that others made there meanwhile. */
export async function makeChange(
  tx: Connection,
  open: OpenDraft,
  { what, author, seen, patch }: NewChange,
): Promise<Edited> {
  const { draft, log } = open
  if (seen < draft.version - log.length || seen > draft.version)
    throw new Refused(
      409,
      'draft-rebased',
      'this draft was put on another revision meanwhile; look at it again, then make the change',
    )
  const then = stateAt(open, seen)
  const read = readChange(then, patch)
  if (!read.ok) throw notMade(read)
  const change = complete(then, read.change)
  roomOrRefused(log, change)
  const later = madeLater(baseOrRefused(open), log, seen, change)
  if (!later.ok) throw notMade(later)
  const gone = later.conflicts.filter(({ kind }) => kind === 'gone')
  if (gone.length > 0)
    throw new Refused(
      409,
      'change-gone',
      `somebody took out ${gone.map(({ operation }) => operation.path).join(', ')} meanwhile`,
      { conflicts: later.conflicts },
    )
  const now = stateAt(open)
  const made = apply(now, later.change)
  if (!made.ok) throw notMade(made)
  validOrRefused(made.estate, now)
  const version = draft.version + 1
  await addEntry(tx, draft.id, {
    number: version,
    what,
    author,
    undoes: null,
    change: later.change,
  })
  return {
    version,
    warnings: made.warnings,
    conflicts: later.conflicts.map(({ operation: { path }, theirs }) => ({ path, theirs })),
  }
}

/** Takes a change back: the one named, else the latest that stands. */
export function undo(
  tx: Connection,
  open: OpenDraft,
  author: string,
  entry: number | null,
): Promise<Edited> {
  const number = entry ?? nextUndo(open.log)
  const stands = changesOf(open.log).some((one) => one.number === number && one.stands)
  if (number === null || !stands)
    throw new Refused(409, 'nothing-to-undo', 'no such change stands in this draft')
  return takeBack(tx, open, author, number)
}

/** Makes what was undone last stand again. */
export function redo(tx: Connection, open: OpenDraft, author: string): Promise<Edited> {
  const number = nextRedo(open.log)
  if (number === null)
    throw new Refused(409, 'nothing-to-redo', 'nothing was undone, or something came after it')
  return takeBack(tx, open, author, number)
}

async function takeBack(
  tx: Connection,
  open: OpenDraft,
  author: string,
  number: number,
): Promise<Edited> {
  const { draft, log } = open
  const what = log.find((one) => one.number === number)!.what
  const back = takingBack(baseOrRefused(open), log, number)
  if (!back.ok) {
    if (!('entries' in back)) throw notMade(back)
    const later = back.entries.map((one) => log.find((entry) => entry.number === one)!.what)
    throw new Refused(
      409,
      'rests-on-it',
      `later changes rest on it: ${later.join('; ')}. Take those back first`,
      { entries: back.entries },
    )
  }
  const now = stateAt(open)
  const made = apply(now, back.change)
  if (!made.ok) throw notMade(made)
  validOrRefused(made.estate, now)
  const version = draft.version + 1
  await addEntry(tx, draft.id, {
    ...{ number: version, what: `take back: ${what}`, author, undoes: number },
    change: back.change,
  })
  return { version, warnings: made.warnings, conflicts: [] }
}

/** Puts a draft on another revision, with what could not follow it as it was meant. */
export async function rebaseDraft(
  tx: Connection,
  { draft, log, base }: OpenDraft,
  onto: { readonly id: number; readonly number: number; readonly estate: Estate },
): Promise<Edited & { readonly setAside: readonly DraftConflict[] }> {
  const rebased = rebasedOnto(base, log, onto.estate, draft.version + 2)
  await putOnto(tx, draft, onto, rebased.log, rebased.conflicts)
  return {
    version: draft.version + 1 + rebased.log.length,
    warnings: [],
    conflicts: [],
    setAside: rebased.conflicts,
  }
}

/** The changes of a draft as one patch that can be made in its base. */
export const patchOf = ({ log }: OpenDraft): Change => changeOf(log)
