import type { Estate } from '../format/estate'
import { keepAlike, keepEntries } from './alike'

/**
 * An estate that was read anew, with every object that says the same as one of an earlier state
 * taken from there: what compares by identity then sees only what changed.
 */
export function shareWith(before: Estate, estate: Estate): Estate {
  const shared = Object.fromEntries(
    Object.entries(estate).map(([section, value]) => {
      const old: unknown = before[section as keyof Estate]
      return [
        section,
        value instanceof Map && old instanceof Map
          ? keepEntries(old, value)
          : keepAlike(old, value as unknown),
      ]
    }),
  )
  return shared as unknown as Estate
}
