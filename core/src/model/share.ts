import type { Estate } from '../format/estate'
import { keepAlike, keepEntries } from './alike'

/**
 * An estate that was read again, with every object that equals one of an earlier state replaced by
 * that one, so that comparisons by identity find only what changed.
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
