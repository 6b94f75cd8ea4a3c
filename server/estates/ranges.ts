import type { Estate } from '@salt-trail/core'

export interface RangeRow {
  readonly section: string
  readonly objectId: string
  readonly ordinal: number
  readonly range: string
}

/** Every range an estate's objects have, as rows for the database. */
export function rangeRows(estate: Estate): RangeRow[] {
  const rows: RangeRow[] = []
  const add = (section: string, objectId: string, ranges: readonly string[] | undefined): void =>
    ranges?.forEach((range, ordinal) => rows.push({ section, objectId, ordinal, range }))
  for (const [id, network] of estate.networks) add('networks', id, network.ranges)
  for (const [id, subnet] of estate.subnets)
    add('subnets', id, [...subnet.ranges, ...Object.values(subnet.namedRanges ?? {}).flat()])
  for (const section of ['services', 'prefixLists', 'sites', 'parties', 'plannedRanges'] as const) {
    for (const [id, object] of estate[section]) add(section, id, object.ranges)
  }
  return rows
}
