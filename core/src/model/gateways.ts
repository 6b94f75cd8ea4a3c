import type { Compiling } from './compiling'
import type { GatewayModel, PeeringModel } from './model'
import { mapSection } from './sections'

/** Compiles every gateway. */
export function compileGateways(compiling: Compiling): readonly GatewayModel[] {
  const { estate, before, sameIndex, of } = compiling
  return mapSection(estate, 'gateways', {
    before: before((model) => model.gateways),
    holds: () => sameIndex('networks', 'routeTables'),
    make: (source, base) => ({
      ...base,
      kind: source.kind,
      network: of('networks', source.network),
      table: of('routeTables', source.routeTable),
      site: source.site ?? null,
    }),
  })
}

/** Compiles every peering. */
export function compilePeerings(compiling: Compiling): readonly PeeringModel[] {
  const { estate, before, sameIndex, of } = compiling
  return mapSection(estate, 'peerings', {
    before: before((model) => model.peerings),
    holds: () => sameIndex('networks'),
    make: (source, base) => {
      const side = (s: typeof source.a) => ({
        network: of('networks', s.network),
        acceptsForwarded: s.acceptsForwarded ?? false,
        usesPeerGateway: s.usesPeerGateway ?? false,
        lendsGateway: s.lendsGateway ?? false,
      })
      const [a, b] = [side(source.a), side(source.b)]
      return { ...base, up: base.up && a.network >= 0 && b.network >= 0, a, b }
    },
  })
}
