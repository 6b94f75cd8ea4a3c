/**
 * Whether two compiled values are equal, compared in depth: plain objects, lists, maps and sets.
 */
export function alike(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null)
    return Number.isNaN(a) && Number.isNaN(b)
  if (Array.isArray(a))
    return Array.isArray(b) && a.length === b.length && a.every((one, at) => alike(one, b[at]))
  if (ArrayBuffer.isView(a))
    return (
      ArrayBuffer.isView(b) &&
      alikeLists(a as unknown as ArrayLike<unknown>, b as unknown as ArrayLike<unknown>)
    )
  if (a instanceof Map) return b instanceof Map && alikeMaps(a, b)
  if (a instanceof Set)
    return b instanceof Set && a.size === b.size && [...a].every((one) => b.has(one))
  const keys = Object.keys(a)
  return (
    keys.length === Object.keys(b).length &&
    keys.every((key) =>
      alike((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]),
    )
  )
}

function alikeLists(a: ArrayLike<unknown>, b: ArrayLike<unknown>): boolean {
  if (a.length !== b.length) return false
  for (let at = 0; at < a.length; at++) if (a[at] !== b[at]) return false
  return true
}

/** Equal in the same order: where several entries match, the first one may count. */
function alikeMaps(a: ReadonlyMap<unknown, unknown>, b: ReadonlyMap<unknown, unknown>): boolean {
  if (a.size !== b.size) return false
  const others = b.entries()
  for (const [key, value] of a) {
    const [otherKey, other] = others.next().value!
    if (key !== otherKey || !alike(value, other)) return false
  }
  return true
}

/** The earlier value where the new one is equal to it, so that others can compare by identity. */
export const keepAlike = <T>(before: T | undefined, made: T): T =>
  before !== undefined && alike(before, made) ? before : made

/** The same for a map, entry by entry; what is not the one before is put into `out`. */
export function keepEntries<K, V>(
  before: ReadonlyMap<K, V> | undefined,
  made: ReadonlyMap<K, V>,
  out: Map<K, V> = new Map(),
): ReadonlyMap<K, V> {
  if (before === undefined) return made
  let same = before.size === made.size
  const others = before.keys()
  for (const [key, value] of made) {
    const kept = keepAlike(before.get(key), value)
    same &&= others.next().value === key && kept === before.get(key)
    out.set(key, kept)
  }
  return same ? before : out
}
