import type { Change } from './change'

/** What would mend a fault: a clause that says it, and the changes. */
export interface Remedy {
  readonly sentence: string
  readonly changes: readonly Change[]
}

/** No changes are no remedy. */
export const remedy = (sentence: string, changes: readonly Change[]): Remedy | null =>
  changes.length > 0 ? { sentence, changes } : null
