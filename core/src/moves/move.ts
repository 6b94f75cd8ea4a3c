import type { Change } from '../changes/index'

/** A ready-made change, as it is shown before it is taken. */
export interface Moved {
  readonly ok: true
  /** What it does, as a clause. */
  readonly what: string
  readonly change: Change
  /** What is to be known of it: what stays as it is, what could not be joined. */
  readonly notes: readonly string[]
}

/** Why a move cannot be made here, and what to do, as a sentence. */
export interface NotMoved {
  readonly ok: false
  readonly message: string
}

export const moved = (what: string, change: Change, notes: readonly string[] = []): Moved => ({
  ok: true,
  what,
  change,
  notes,
})
export const notMoved = (message: string): NotMoved => ({ ok: false, message })

/** Several names in a sentence; the rest of many is counted. */
export function listed(names: readonly string[], most = 4): string {
  if (names.length <= most) return names.join(', ')
  return `${names.slice(0, most).join(', ')} and ${names.length - most} more`
}
