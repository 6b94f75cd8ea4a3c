import { apply, complete, type Change, type Estate } from '../../src/index'

/** An estate with a change made that can be made. */
export function made(estate: Estate, change: Change): Estate {
  const after = apply(estate, complete(estate, change))
  if (!after.ok) throw new Error(`${after.failure.path}: ${after.failure.message}`)
  return after.estate
}
