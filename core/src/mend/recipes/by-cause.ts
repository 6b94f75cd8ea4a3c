import type { CauseCode } from '../../walk/causes'
import {
  firstLookUp,
  answerByTheDoor,
  answerPastTheFirewall,
  answerThroughTheFirewall,
  answerTheWayItCame,
} from './answers'
import { pointer, type Operation } from '../../changes/index'
import { mend } from '../mend'
import { viaText } from '../../model/targets'
import { type Recipe, dropTheRoute, allow, upAgain, reroute } from './rerouting'
import { allowInPolicy, deferInEstate, trafficText } from './rules'
import {
  bringUp,
  covers,
  freeId,
  isUp,
  networkWith,
  prefixFor,
  situationOf,
  type Situation,
} from '../situation'
import { associate, addRoute, setRoute } from './routes'
import {
  announce,
  firewallRoute,
  ingressWithoutDrop,
  roomFor,
  transitRoute,
  withoutOwnRoute,
} from './element-routes'
import { leadNatOut, tableThatLeads } from './associations'
import { reservedAddress, unusedAddress } from './translators'
import { waysTowards } from './ways'

/**
 * A way to the internet for a host without a public address: the translator of its network, else an
 * address of the reserve.
 */
const publicAddress: Recipe = (s) => {
  if (s.section === 'subnets')
    return mend(`${s.id} gives public addresses`, [
      { op: 'add', path: pointer('subnets', s.id, 'givesPublicAddresses'), value: true },
    ])
  const owner = s.model.index.interfaces.get(s.id)
  const nat = waysTowards(s).find((via) => typeof via === 'object' && via.nat !== undefined)
  if (nat !== undefined && s.lookup && !leadsOthersOut(s))
    return mend(`route by ${viaText(nat)}`, setRoute(s, nat))
  if (s.section !== 'interfaces' || owner === undefined) return null
  const path = pointer('interfaces', s.id, 'publicAddress')
  const subnet = s.model.interfaces[owner]!.subnet
  const kept = reservedAddress(s.model, s.model.subnets[subnet]?.region ?? null)
  if (kept !== null)
    return mend(`give ${s.id} the reserved public address ${kept}`, [
      { op: 'add', path, value: kept },
    ])
  // An address that is not in the reserve would be made up, so it is left to be chosen.
  const standIn = unusedAddress(s.model)
  return mend(
    `give ${s.id} a public address of your choice`,
    [{ op: 'add', path, value: standIn }],
    [{ path, wants: 'a public IPv4 address', standIn }],
  )
}

/**
 * Whether the table that led there also leads hosts out that have public addresses, or a
 * translator: it must then stay as it is.
 */
function leadsOthersOut({ estate, model, lookup }: Situation): boolean {
  const sharing = model.subnets.filter(
    (one) => one.table >= 0 && model.tables[one.table]!.id === lookup?.table,
  )
  const addressed = sharing.some((one) =>
    one.interfaces.some((i) => model.interfaces[i]!.publicAddress !== null),
  )
  return (
    addressed ||
    [...estate.nats.values()].some((nat) => sharing.some((one) => one.id === nat.placement?.subnet))
  )
}

/**
 * Each cause with the recipe of its smallest mend; a recipe gives null where no change of the
 * estate alone mends it.
 */
export const RECIPES: Record<CauseCode, Recipe> = {
  'denied-estate': (s) =>
    mend(`leave ${trafficText(s)} to lower rules before estate rule ${s.id}`, deferInEstate(s)),
  'denied-local': allow,
  'denied-interface': allow,
  'denied-subnet': allow,
  'denied-boundary': allow,
  'denied-policy': (s) =>
    mend(`allow ${trafficText(s)} in the policy of ${s.id}`, allowInPolicy(s)),
  'nat-outbound-only': () => null,
  'gateway-outbound-only': (s) =>
    mend(`make ${s.id} an internet gateway`, [
      { op: 'replace', path: pointer('gateways', s.id, 'kind'), value: 'internet' },
    ]),
  'gateway-wrong-family': (s) => {
    const via = waysTowards(s, [s.id])[0]
    if (via !== undefined)
      return mend(`route ${prefixFor(s, s.dst)} by ${viaText(via)}`, setRoute(s, via))
    return mend(`make ${s.id} an internet gateway`, [
      { op: 'replace', path: pointer('gateways', s.id, 'kind'), value: 'internet' },
    ])
  },
  'no-route': (s) => {
    if (s.section === 'transits') return transitRoute(s)
    if (s.section === 'firewalls') return firewallRoute(s)
    if (s.section === 'routeTables' && !isUp(s.estate.routeTables.get(s.id))) return upAgain(s)
    const fitting = tableThatLeads(s)
    if (fitting !== null)
      return mend(`associate ${s.lookup!.subnet} with ${fitting}`, [
        associate(s.lookup!.subnet, fitting),
      ])
    const via = waysTowards(s)[0]
    return via === undefined
      ? null
      : mend(`route ${prefixFor(s, s.dst)} by ${viaText(via)}`, setRoute(s, via))
  },
  'drop-route': (s) => {
    if (s.section === 'transits') return withoutOwnRoute(s, 'transits')
    if (s.section === 'firewalls') return withoutOwnRoute(s, 'firewalls')
    if (s.section === 'routeTables' && s.lookup?.table !== s.id) return ingressWithoutDrop(s)
    return s.lookup?.table != null && s.lookup.entry >= 0 ? dropTheRoute(s) : reroute()(s)
  },
  'no-such-subnet': (s) => {
    const network = networkWith(s.estate, s.dst)
    const gone = [...s.estate.subnets].find(
      ([, one]) => one.network === network && !isUp(one) && covers(one.ranges, s.dst),
    )?.[0]
    if (gone !== undefined) return mend(`bring ${gone} back`, bringUp(s.estate, 'subnets', gone))
    const id = freeId(s.estate.subnets, `${network}-new`)
    const ranges = [roomFor(s)]
    return network === undefined
      ? null
      : mend(`a subnet of ${network} for ${ranges[0]}`, [
          { op: 'add', path: pointer('subnets', id), value: { network, ranges } },
        ])
  },
  'interface-not-up': upAgain,
  'target-missing': (s) => {
    const via =
      s.lookup?.table != null
        ? s.estate.routeTables.get(s.lookup.table)?.routes?.[s.lookup.entry]?.via
        : undefined
    const [kind, id] = typeof via === 'object' ? Object.entries(via)[0]! : ['', '']
    const back = bringUp(s.estate, SECTION_OF[kind] ?? '', id)
    return back.length > 0 ? mend(`bring ${id} back`, back) : reroute(id)(s)
  },
  'target-not-up': (s) => {
    const parts =
      s.section === 'transits'
        ? Object.keys(s.estate.transits.get(s.id)?.attachments ?? {}).map((name) => [
            'attachments',
            name,
          ])
        : []
    const ends =
      s.section === 'firewalls'
        ? Object.keys(inlineEndpoints(s)).map((name) => ['endpoints', name])
        : []
    const inside = [...parts, ...ends].flatMap(([part, name]): Operation[] => {
      const object = (
        s.estate[s.section as 'transits'].get(s.id) as unknown as Record<
          string,
          Record<string, { state?: string; subnet?: string }>
        >
      )[part!]![name!]!
      const subnet = object.subnet === undefined ? [] : bringUp(s.estate, 'subnets', object.subnet)
      return [
        ...(isUp(object)
          ? []
          : [{ op: 'remove' as const, path: pointer(s.section, s.id, part!, name!, 'state') }]),
        ...subnet,
      ]
    })
    return mend(`bring ${s.id} up`, [...bringUp(s.estate, s.section, s.id), ...inside])
  },
  'target-elsewhere': (s) => {
    const object = (
      s.estate as unknown as Record<string, ReadonlyMap<string, { network?: string }>>
    )[s.section]?.get(s.id)
    if (s.section === 'gateways' && object?.network === undefined && s.network !== null)
      return mend(`attach ${s.id} to ${s.network}`, [
        { op: 'add', path: pointer('gateways', s.id, 'network'), value: s.network },
      ])
    return reroute()(s)
  },
  'no-public-address': publicAddress,
  'private-destination': reroute(),
  'no-internet-gateway': (s) => {
    if (s.section === 'gateways') return upAgain(s)
    const id = freeId(s.estate.gateways, `${s.id}-door`)
    return mend(`give ${s.id} an internet gateway`, [
      { op: 'add', path: pointer('gateways', id), value: { kind: 'internet', network: s.id } },
    ])
  },
  'nobody-has-it': () => null,
  'nat-no-address': (s) =>
    mend(`let ${s.id} use its draining addresses again`, [
      { op: 'remove', path: pointer('nats', s.id, 'draining') },
    ]),
  'nat-other-region': (s) => {
    const region =
      s.lookup && s.model.subnets[s.model.index.subnets.get(s.lookup.subnet) ?? -1]?.region
    const other = [...s.estate.nats].find(
      ([, nat]) => isUp(nat) && nat.network === s.network && nat.placement?.region === region,
    )?.[0]
    if (other !== undefined) return mend(`route by nat ${other}`, setRoute(s, { nat: other }))
    return reroute()(s)
  },
  'nat-does-not-serve': (s) =>
    mend(`let ${s.id} serve every subnet and range`, [
      { op: 'remove', path: pointer('nats', s.id, 'serves') },
    ]),
  'nat-wrong-family': reroute(),
  'nat-without-way-out': (s) => {
    const { inner } = s.cause as { inner?: { code: CauseCode; object: string } }
    const subnet = s.estate.nats.get(s.id)?.placement?.subnet
    if (!inner || subnet === undefined) return null
    if (networkWith(s.estate, s.dst) === s.network)
      return dropTheRoute({ ...s, lookup: firstLookUp(s.stations) })
    const own = situationOf(
      s.model,
      s.branch,
      { ...inner, direction: s.cause.direction },
      s.stations.length - 1,
    )
    const door = [...s.estate.gateways].find(
      ([, g]) => isUp(g) && g.kind === 'internet' && g.network === s.network,
    )?.[0]
    if (
      inner.code === 'looped' ||
      inner.code === 'private-destination' ||
      inner.code === 'no-route'
    )
      return door === undefined
        ? null
        : leadNatOut(s.model, subnet, door, typeof s.dst === 'number' ? '0.0.0.0/0' : '::/0')
    return RECIPES[inner.code](own)
  },
  'nat-no-flow': answerByTheDoor,
  'next-hop-missing': reroute(),
  'next-hop-not-up': upAgain,
  'next-hop-not-forwarding': (s) =>
    s.section === 'interfaces'
      ? mend(`let ${s.id} forward`, [
          { op: 'add', path: pointer('interfaces', s.id, 'forwards'), value: true },
        ])
      : reroute()(s),
  'next-hop-in-other-network': reroute(),
  'answer-from-other-address': answerByTheDoor,
  'no-state': answerPastTheFirewall,
  'return-bypasses-firewall': answerThroughTheFirewall,
  'peering-not-transitive': (s) => {
    const [network, target] = [s.network, networkWith(s.estate, s.dst)]
    const via = waysTowards(s, [s.id])[0]
    if (via !== undefined)
      return mend(
        `route ${prefixFor(s, s.dst)} by ${viaText(via)}`,
        addRoute(s, s.lookup, prefixFor(s, s.dst), via),
      )
    if (network === null || target === undefined) return null
    const id = freeId(s.estate.peerings, `${network}-${target}`)
    const peering: Operation = {
      op: 'add',
      path: pointer('peerings', id),
      value: { a: { network }, b: { network: target } },
    }
    return mend(`peer ${network} with ${target}`, [
      peering,
      ...addRoute(s, s.lookup, prefixFor(s, s.dst), { peering: id }),
    ])
  },
  'forwarded-refused': (s) => {
    const peering = s.estate.peerings.get(s.id)!
    const isFor = (network: string): boolean => network === networkWith(s.estate, s.dst)
    const to = isFor(peering.b.network) || peering.a.network === s.network ? 'b' : 'a'
    return mend(`let ${peering[to].network} take forwarded packets over ${s.id}`, [
      { op: 'add', path: pointer('peerings', s.id, to, 'acceptsForwarded'), value: true },
    ])
  },
  'site-does-not-have-it': reroute(),
  'site-has-no-route': (s) => announce(s),
  'site-has-no-route-back': (s) => announce(s),
  'transit-not-in-zone': (s) => {
    const attachment = Object.entries(s.estate.transits.get(s.id)?.attachments ?? {}).find(
      ([, one]) => one.network === s.network,
    )?.[0]
    if (attachment === undefined || !s.lookup) return null
    return mend(`attach ${s.lookup.subnet} to ${s.id} too`, [
      {
        op: 'add',
        path: pointer('transits', s.id, 'attachments', attachment, 'subnets', '-'),
        value: s.lookup.subnet,
      },
    ])
  },
  'wrong-service': (s) => {
    const service = [...s.estate.services].find(([, one]) => covers(one.ranges, s.dst))?.[0]
    const via = waysTowards(s, [s.id])[0]
    if (via !== undefined)
      return mend(`route ${prefixFor(s, s.dst)} by ${viaText(via)}`, setRoute(s, via))
    if (service === undefined || s.network === null) return dropTheRoute(s)
    const id = freeId(s.estate.endpoints, `${s.network}-${service}`)
    const endpoint: Operation = {
      op: 'add',
      path: pointer('endpoints', id),
      value: { style: 'routed', service, network: s.network },
    }
    return mend(`an endpoint of ${s.network} for ${service}`, [
      endpoint,
      ...setRoute(s, { endpoint: id }),
    ])
  },
  'service-other-region': dropTheRoute,
  'no-listener': (s) => {
    const front = s.estate.frontends.get(s.id)
    const like = front?.listeners?.find((one) => one.targets?.length)
    if (!like || s.packet.dstPort === null) return null
    return mend(`let ${s.id} listen on ${s.packet.dstPort}`, [
      {
        op: 'add',
        path: pointer('frontends', s.id, 'listeners', '-'),
        value: { ...like, protocol: s.packet.protocol, port: s.packet.dstPort },
      },
    ])
  },
  'name-unknown': () => null,
  'answer-to-other-host': answerTheWayItCame,
  looped: reroute(),
}

const SECTION_OF: Record<string, string> = {
  nat: 'nats',
  gateway: 'gateways',
  endpoint: 'endpoints',
  peering: 'peerings',
  interface: 'interfaces',
  transit: 'transits',
}

function inlineEndpoints({ estate, id }: Situation): object {
  const firewall = estate.firewalls.get(id)
  return firewall?.style === 'inline' ? (firewall.endpoints ?? {}) : {}
}
