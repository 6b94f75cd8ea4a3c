import { prefixTable } from '../address/prefix-table'
import type { Compiling } from './compiling'
import type { Model, TableModel } from './model'
import { tableEntries } from './routes'
import { mapSection } from './sections'
import { targetOf } from './targets'

/** The sections of objects that a route can lead to. */
const TARGETS = [
  'nats',
  'gateways',
  'endpoints',
  'peerings',
  'interfaces',
  'transits',
  'firewalls',
] as const

/** Compiles every route table. */
export function compileTables(compiling: Compiling): readonly TableModel[] {
  const { estate, index, previous, before, of, same, sameIndex } = compiling
  const targetsStand = sameIndex(...TARGETS)
  const tablesStand = sameIndex('networks') && same('prefixLists', 'services')
  return mapSection(estate, 'routeTables', {
    before: before((model) => model.tables),
    allHold: targetsStand && tablesStand,
    holds: (_, source) =>
      tablesStand && (targetsStand || leadsAsBefore(source, previous!.index, index)),
    make: (source, base): TableModel => ({
      ...base,
      network: of('networks', source.network),
      routes: prefixTable(
        base.up
          ? (source.routes ?? []).flatMap((route, entry) =>
              tableEntries(estate, index, base.index, route, entry),
            )
          : [],
      ),
      source,
    }),
  })
}

/** Whether every route of a table still leads to the object of the same number. */
function leadsAsBefore(
  source: TableModel['source'],
  old: Model['index'],
  index: Model['index'],
): boolean {
  return (source.routes ?? []).every(({ via }) => {
    if (typeof via === 'string' || via.address !== undefined) return true
    const [a, b] = [targetOf(old, via), targetOf(index, via)]
    return 'index' in a && 'index' in b && a.index === b.index && a.id === b.id
  })
}
