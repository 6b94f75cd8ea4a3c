import type { Prefix } from '../address/prefix'
import { prefixTable, type PrefixEntry } from '../address/prefix-table'
import type { Estate, Transit } from '../format/estate'
import { attachmentRanges } from './learned'
import type { Compiled, Model, TransitModel, TransitRoute } from './model'
import { destinationPrefixes } from './routes'
import { isUp } from './sections'

/** A transit with its tables as prefix tables, and the attachment of each network. */
export function compileTransit(
  estate: Estate,
  index: Model['index'],
  source: Transit,
  base: Compiled,
): TransitModel {
  const attachmentOf = new Map<number, string>()
  const towards = new Map<string, string>()
  for (const [name, attachment] of Object.entries(source.attachments ?? {})) {
    const network = index.networks.get(attachment.network ?? '')
    if (attachment.transit !== undefined && isUp(attachment) && !towards.has(attachment.transit))
      towards.set(attachment.transit, name)
    if (network !== undefined && attachment.state !== 'deleted' && !attachmentOf.has(network))
      attachmentOf.set(network, name)
  }
  const tables = new Map(
    Object.keys(source.tables ?? {}).map((name) => [
      name,
      prefixTable(tableRoutes(estate, source, name)),
    ]),
  )
  return { ...base, source, attachmentOf, towards, tables }
}

/**
 * What stands in a transit's table: the routes written there, and the ranges of the attachments it
 * learns from.
 */
function tableRoutes(estate: Estate, transit: Transit, name: string): PrefixEntry<TransitRoute>[] {
  const table = transit.tables![name]!
  if (!isUp(table)) return []
  const entry = (prefix: Prefix, via: string, learned: boolean): PrefixEntry<TransitRoute> => ({
    prefix,
    value: { prefix, via, learned },
  })
  const written = (table.routes ?? [])
    .filter((route) => isUp(route))
    .flatMap((route) =>
      destinationPrefixes(estate, route.to).map((prefix) => entry(prefix, route.via, false)),
    )
  const from =
    table.learn === 'all'
      ? Object.keys(transit.attachments ?? {})
      : Array.isArray(table.learn)
        ? table.learn
        : []
  return [
    ...written,
    ...from.flatMap((other) =>
      attachmentRanges(estate, transit, other).map((prefix) => entry(prefix, other, true)),
    ),
  ]
}
