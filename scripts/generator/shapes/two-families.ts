import {
  address6,
  networkRange,
  networkRange6,
  publicAddress,
  subnetRange,
  subnetRange6,
} from '../plan'
import { isFaulty, OWN_RULES, putNetwork, putRegion, type MakeShape } from './shape'

const EACH = 4

/**
 * Networks of one public and three private subnets, both families everywhere: IPv4 leaves by a
 * translator, IPv6 by an outbound-only gateway. One network of ten leads IPv6 to the internet
 * gateway, one has no route for it, one's translator stands in a private subnet.
 */
export const twoFamilies: MakeShape = (draft, subnets) => {
  putRegion(draft)
  draft.put('ruleSets', 'own-rules', OWN_RULES)
  for (let number = 0; number < Math.round(subnets / EACH); number++) {
    const id = `both-${number}`
    const [leaks, lacks, stranded] = [1, 2, 3].map((offset) => isFaulty(number, offset))
    putNetwork(draft, number, id, EACH, {
      network: {
        ranges: [networkRange(number), networkRange6(number)],
        defaultRouteTable: `${id}-private`,
      },
      subnet: (at) => ({
        ranges: [subnetRange(number, at), subnetRange6(number, at)],
        ...(at === 0 ? { routeTable: `${id}-public`, role: 'public' } : { role: 'private' }),
      }),
    })
    for (let at = 0; at < EACH; at++)
      for (let host = 0; host < 2; host++) {
        const ref = `${id}-s${at}-h${host}`
        const interfaces = draft.sections.interfaces as Record<string, { addresses: string[] }>
        interfaces[ref] = {
          ...interfaces[ref]!,
          addresses: [...interfaces[ref]!.addresses, address6(number, at, 10 + host)],
          ...(at === 0 ? { publicAddress: publicAddress(number * 4 + host) } : {}),
        }
      }
    draft.put('gateways', `${id}-door`, { kind: 'internet', network: id })
    draft.put('gateways', `${id}-six`, { kind: 'outbound-v6', network: id })
    draft.put('nats', `${id}-nat`, {
      network: id,
      placement: { subnet: `${id}-s${stranded ? 1 : 0}` },
      addresses: [publicAddress(number * 4 + 2)],
    })
    draft.put('routeTables', `${id}-public`, {
      network: id,
      routes: ['0.0.0.0/0', '::/0'].map((to) => ({ to, via: { gateway: `${id}-door` } })),
    })
    draft.put('routeTables', `${id}-private`, {
      network: id,
      routes: [
        { to: '0.0.0.0/0', via: { nat: `${id}-nat` } },
        ...(lacks ? [] : [{ to: '::/0', via: { gateway: leaks ? `${id}-door` : `${id}-six` } }]),
      ],
    })
    if (leaks) draft.plant('leak-ipv6', `routeTables/${id}-private`)
    if (lacks) draft.plant('no-route', `routeTables/${id}-private`)
    if (stranded) draft.plant('hole-nat-without-way-out', `nats/${id}-nat`)
  }
}
