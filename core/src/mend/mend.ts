import type { Model } from '../model/model'
import type { Branch } from '../trace/trace'
import type { Cause } from '../walk/causes'
import { RECIPES, type Remedy } from './recipes'
import { situationOf } from './situation'

/** What would mend one fault of a path. */
export interface Mend extends Remedy {
  /** The fault's place in the branch's `faults`. */
  readonly fault: number
  readonly code: Cause['code']
  readonly object: string
}

/**
 * For each fault of a path the smallest change of the estate that would mend it, ready to be made
 * (`applyChanges`). The trace must have evidence; asked with `continue`, it has all faults. Faults
 * that no change of the estate alone would mend are left out. Never throws on any estate.
 */
export function mendsOf(model: Model, branch: Branch): Mend[] {
  return branch.faults.flatMap((cause, fault): Mend[] => {
    const remedy = RECIPES[cause.code](situationOf(model, branch, cause, cause.station))
    return remedy === null ? [] : [{ fault, code: cause.code, object: cause.object, ...remedy }]
  })
}
