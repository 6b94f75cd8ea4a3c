import type { Operation } from '../changes/index'

/** What would mend a fault: a clause that says it, and the changes. */
export interface Remedy {
  readonly sentence: string
  readonly changes: readonly Operation[]
}

/** No changes are no remedy. */
export const remedy = (sentence: string, changes: readonly Operation[]): Remedy | null =>
  changes.length > 0 ? { sentence, changes } : null
