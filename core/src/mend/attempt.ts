import { apply, complete, type Change } from '../changes/index'
import { compile } from '../model/compile'
import type { Model } from '../model/model'

/**
 * The model of an estate with a change made; null where the change cannot be made. Costs what the
 * change touches: the rest is taken over from the model.
 */
export function modelAfter(model: Model, change: Change): Model | null {
  const after = apply(model.estate, complete(model.estate, change))
  return after.ok ? compile(after.estate, model) : null
}
