import { keepAlike } from './alike'
import { MAP_SECTIONS, type MapSection } from '../format/schema/document'
import type { Estate } from '../format/estate'
import type { Compiled, Model } from './model'

interface Stated {
  readonly state?: 'up' | 'pending' | 'down' | 'deleted'
}
/** Whether an object is there and up. */
export const isUp = (object: Stated | undefined): boolean =>
  object !== undefined && (object.state ?? 'up') === 'up'
const isThere = (object: Stated | undefined): boolean => object !== undefined && isPresent(object)
/** Whether an object is not deleted. */
export const isPresent = (object: Stated): boolean => object.state !== 'deleted'

/**
 * From ids to numbers, section by section; a section whose ids are as before keeps its map, so that
 * readers compare it by identity.
 */
export function indexOf(estate: Estate, previous: Model | null): Model['index'] {
  const out: Record<string, ReadonlyMap<string, number>> = {}
  for (const section of MAP_SECTIONS) {
    const before = previous?.index[section]
    const untouched =
      previous?.estate[section] === estate[section] &&
      (section !== 'subnets' || previous.estate.networks === estate.networks)
    if (before && untouched) {
      out[section] = before
      continue
    }
    const numbers = new Map<string, number>()
    let number = 0
    for (const [id, object] of estate[section] as ReadonlyMap<string, Stated>) {
      // What lies in a deleted network went with it.
      const gone =
        section === 'subnets' &&
        !isThere(estate.networks.get((object as { network?: string }).network ?? ''))
      if (isPresent(object) && !gone) numbers.set(id, number)
      number++
    }
    out[section] = before && sameNumbers(before, numbers) ? before : numbers
  }
  return out as Model['index']
}

function sameNumbers(a: ReadonlyMap<string, number>, b: ReadonlyMap<string, number>): boolean {
  if (a.size !== b.size) return false
  for (const [id, number] of a) if (b.get(id) !== number) return false
  return true
}

type Source<S extends MapSection> = NonNullable<ReturnType<Estate[S]['get']>>

/** How a section's objects are compiled. */
export interface Making<S extends MapSection, T> {
  readonly make: (source: Source<S>, base: Compiled) => T
  /**
   * Those of an earlier model of the same section, to be taken over where their source and what
   * `holds` asks are as before.
   */
  readonly before: { readonly estate: Estate; readonly made: readonly T[] } | null
  readonly holds?: (made: T, source: Source<S>) => boolean
  /** True where nothing `holds` asks can have changed for any object. */
  readonly allHold?: boolean
}

/**
 * Compiles a section object by object; where every one is as before, the earlier array itself is
 * returned.
 */
export function mapSection<S extends MapSection, T extends Compiled>(
  estate: Estate,
  section: S,
  { make, before, holds, allHold }: Making<S, T>,
): readonly T[] {
  const sources = estate[section] as ReadonlyMap<string, Source<S>>
  if (before && allHold && (before.estate[section] as unknown) === sources) return before.made
  const earlier = (before?.estate[section] as ReadonlyMap<string, Source<S>> | undefined)?.values()
  const out: T[] = []
  let same = before !== null && before.made.length === sources.size
  for (const [id, source] of sources) {
    const old = before?.made[out.length]
    const oldSource: Source<S> | undefined = earlier?.next().value
    if (
      old &&
      oldSource === source &&
      old.id === id &&
      (allHold || (holds?.(old, source) ?? true))
    ) {
      out.push(old)
      continue
    }
    const made = make(source, {
      index: out.length,
      id,
      ref: `${section}/${id}`,
      up: isUp(source as Stated),
    })
    const kept = oldSource === source ? keepAlike(old, made) : made
    same &&= kept === old
    out.push(kept)
  }
  return same ? before!.made : out
}

/** Items by a key, in their order. */
export function groupBy<T, K>(items: readonly T[], key: (item: T) => K): Map<K, T[]> {
  const out = new Map<K, T[]>()
  for (const item of items) {
    const list = out.get(key(item))
    if (list) list.push(item)
    else out.set(key(item), [item])
  }
  return out
}

/** Whether two lists have the same members by identity. */
export const sameList = (a: readonly unknown[], b: readonly unknown[]): boolean =>
  a.length === b.length && a.every((one, i) => one === b[i])
