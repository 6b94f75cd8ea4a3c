import type { Operation } from '../changes/index'

/**
 * A change of the estate that mends a fault: of a packet that a trace shows, or of a finding. Both
 * come from the recipes in `recipes/`.
 */
export interface Mend {
  /** A clause in the imperative that says what is done. */
  readonly what: string
  readonly changes: readonly Operation[]
}

/** A mend of some changes; null where there are none. */
export const mend = (what: string, changes: readonly Operation[]): Mend | null =>
  changes.length > 0 ? { what, changes } : null
