import { type Finding, finding } from '../finding'
import { checkWhole, nameOf } from '../survey'

/** Quotas that are passed, or nine tenths used. */
export const checkQuotas = checkWhole('upkeep', ({ model }) => {
  const { quotas: limits } = model.estate
  if (!limits) return []
  const out: Finding[] = []
  const use = (anchor: string, what: string, used: number, limit: number | undefined): void => {
    if (limit === undefined || used < limit * 0.9) return
    out.push(
      finding({
        code: 'odd-quota',
        severity: used > limit ? 'medium' : 'low',
        anchor,
        sentence: `${nameOf(anchor)} has ${used} ${what}, ${used > limit ? 'past' : used === limit ? 'all of' : 'nine tenths or more of'} the quota of ${limit}.`,
        root: { kind: 'attribute', object: 'estate', part: 'quotas' },
        part: what,
        facts: [`${used} of ${limit}`],
      }),
    )
  }
  for (const table of model.tables)
    if (model.index.routeTables.has(table.id))
      use(
        table.ref,
        'routes',
        (table.source.routes ?? []).filter((route) => (route.state ?? 'up') !== 'deleted').length,
        limits.routesPerTable,
      )
  for (const network of model.networks) {
    if (!model.index.networks.has(network.id)) continue
    use(
      network.ref,
      'peerings',
      model.attached.peerings.get(network.index)?.length ?? 0,
      limits.peeringsPerNetwork,
    )
  }
  const perRegion = new Map<string, number>()
  for (const [text, address] of model.estate.publicAddresses)
    if (address.region && model.index.publicAddresses.has(text))
      perRegion.set(address.region, (perRegion.get(address.region) ?? 0) + 1)
  for (const [region, count] of perRegion)
    use(`regions/${region}`, 'public addresses', count, limits.publicAddressesPerRegion)
  return out
})
