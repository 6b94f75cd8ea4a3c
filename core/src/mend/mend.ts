import type { Operation } from '../changes/index'

/**
 * A change of the estate that mends a fault: of a packet that a trace shows, or of a finding. Both
 * come from the recipes in `recipes/`.
 */
export interface Mend {
  /** A clause in the imperative that says what is done. */
  readonly what: string
  readonly changes: readonly Operation[]
  /** What an engineer has to choose; the changes hold stand-ins that no object has. */
  readonly blanks?: readonly Blank[]
  /** Prefixes that a route leads as those of most neighbours do: all of them are what is meant. */
  readonly asNeighbours?: readonly string[]
  /** Paths of changes that only close: rules where none were, say. */
  readonly closing?: readonly string[]
}

/** A value of a change that nothing in the estate decides, such as a public address. */
export interface Blank {
  /** Where it stands, as a JSON pointer into the estate after the changes. */
  readonly path: string
  /** What is wanted, such as `a public IPv4 address`. */
  readonly wants: string
  readonly standIn: string
}

/** A mend of some changes; null where there are none. */
export const mend = (
  what: string,
  changes: readonly Operation[],
  blanks: readonly Blank[] = [],
): Mend | null =>
  changes.length === 0 ? null : blanks.length === 0 ? { what, changes } : { what, changes, blanks }
