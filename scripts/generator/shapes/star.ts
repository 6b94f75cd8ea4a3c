import { networkRange } from '../plan'
import { isFaulty, OWN_RULES, putHub, putNetwork, putRegion, WALL, type MakeShape } from './shape'

/**
 * A hub with a routed firewall and default-open spokes of four subnets that are steered through
 * it. One spoke of ten lacks the route to the others, one's peering takes nothing forwarded, one
 * sends a partner's range to a translator that is gone.
 */
export const star: MakeShape = (draft, subnets) => {
  putRegion(draft)
  putHub(draft)
  draft.put('ruleSets', 'own-rules', OWN_RULES)
  const spokes = Math.round((subnets - 2) / 4)
  for (let number = 1; number <= spokes; number++) {
    const id = `spoke-${number}`
    const [lacks, refuses, dead] = [0, 1, 2].map((offset) => isFaulty(number, offset))
    putNetwork(draft, number, id, 4, {
      network: { behaviour: 'default-open', defaultRouteTable: `${id}-table` },
    })
    draft.put('routeTables', `${id}-table`, {
      network: id,
      routes: [
        { to: '0.0.0.0/0', via: { address: WALL } },
        ...(lacks ? [] : [{ to: '10.0.0.0/8', via: { address: WALL } }]),
        ...(dead ? [{ to: '198.51.100.0/24', via: { nat: `${id}-nat` } }] : []),
      ],
    })
    draft.put('peerings', `${id}-hub`, {
      a: { network: id, acceptsForwarded: !refuses },
      b: { network: 'hub', acceptsForwarded: true },
    })
    if (lacks) draft.plant('no-route', `routeTables/${id}-table`)
    if (refuses) draft.plant('hole-forwarded-refused', `peerings/${id}-hub`)
    if (dead) draft.plant('hole-dead-target', `routeTables/${id}-table`)
  }
  // The hub's inside subnet leads to each spoke by its peering.
  draft.put('routeTables', 'hub-inside-table', {
    network: 'hub',
    routes: Array.from({ length: spokes }, (_, at) => ({
      to: networkRange(at + 1),
      via: { peering: `spoke-${at + 1}-hub` },
    })),
  })
  draft.sections.subnets!['hub-inside'] = {
    ...(draft.sections.subnets!['hub-inside'] as object),
    routeTable: 'hub-inside-table',
  }
}
