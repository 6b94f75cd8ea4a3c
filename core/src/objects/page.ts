import { splitRef } from '../format/ref'
import {
  isListSection,
  isMapSection,
  isWholeSection,
  type WholeSection,
} from '../format/schema/document'
import { writeObject } from '../format/write'
import type { Model } from '../model/model'
import { canFail } from '../moves/fail'
import type { References } from './references'
import { routeTargets, type RouteTarget } from './targets'

/** What is to be known of one object. */
export interface ObjectPage {
  /** `section/id`, or a section that is edited as one. */
  readonly ref: string
  readonly title: string | null
  /** As JSON, and as it is written. */
  readonly value: unknown
  readonly text: string
  readonly zone: string | null
  /** As `section/id`. */
  readonly refersTo: readonly string[]
  readonly referredBy: readonly string[]
  /** The subnets that use it, by themselves or by their route table. */
  readonly serves: readonly string[]
  readonly canFail: boolean
  /** What a route may lead to here; of a route table. */
  readonly targets: readonly RouteTarget[]
}

/**
 * What is to be known of an object, named as `section/id`, or of a section that is edited as one,
 * which an entry of it, such as `estateRules/10`, stands for; null where there is none.
 */
export function objectPage(
  model: Model,
  { refersTo, referredBy }: References,
  ref: string,
): ObjectPage | null {
  const [section, id] = splitRef(ref)
  if (isWholeSection(section)) return sectionPage(model, refersTo, section)
  if (!isMapSection(section)) return null
  const value = model.estate[section].get(id) as
    { readonly title?: string; readonly zone?: string } | undefined
  if (value === undefined) return null
  const by = referredBy.get(ref) ?? []
  return {
    ref,
    title: value.title ?? null,
    value,
    text: writeObject(value),
    zone: value.zone ?? zoneOf(model, refersTo.get(ref) ?? []),
    refersTo: refersTo.get(ref) ?? [],
    referredBy: by,
    serves: servedBy(model, ref, [...by, ...bySides(section, refersTo.get(ref), referredBy)]),
    canFail: canFail(section),
    targets: section === 'routeTables' ? routeTargets(model, id) : [],
  }
}

function sectionPage(
  { estate }: Model,
  refersTo: References['refersTo'],
  section: WholeSection,
): ObjectPage | null {
  const value: unknown = estate[section]
  if (value === null || (isListSection(section) && estate[section].length === 0)) return null
  return {
    ...{ ref: section, title: null, value, text: writeObject(value), zone: null },
    ...{ refersTo: refersTo.get(section) ?? [], referredBy: [], serves: [] },
    ...{ canFail: false, targets: [] },
  }
}

/** Who refers to the interfaces of a firewall: routes lead to those, and not to the firewall. */
const bySides = (
  section: string,
  refs: readonly string[] = [],
  referredBy: References['referredBy'],
): readonly string[] =>
  section === 'firewalls'
    ? refs
        .filter((ref) => ref.startsWith('interfaces/'))
        .flatMap((ref) => referredBy.get(ref) ?? [])
    : []

/** The zone of the subnets that an object stands in, if it is one. */
function zoneOf(model: Model, refs: readonly string[]): string | null {
  const zones = new Set(
    refs.flatMap((ref) => {
      const [section, id] = splitRef(ref)
      return section === 'subnets' ? [model.estate.subnets.get(id)?.zone ?? null] : []
    }),
  )
  return zones.size === 1 ? [...zones][0]! : null
}

function servedBy(model: Model, ref: string, by: readonly string[]): string[] {
  const tables = new Set(
    [ref, ...by].flatMap((one) => {
      const [section, id] = splitRef(one)
      return section === 'routeTables' ? [model.index.routeTables.get(id) ?? -1] : []
    }),
  )
  tables.delete(-1)
  const named = new Set(by)
  return [...model.index.subnets]
    .filter(([id, index]) => named.has(`subnets/${id}`) || tables.has(model.subnets[index]!.table))
    .map(([id]) => id)
}
