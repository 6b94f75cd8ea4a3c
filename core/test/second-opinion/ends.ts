import type { Estate } from '../../src'
import type { Asked } from './answer'
import { type Bits, bitsOf, prefixBits, covers, isPublic, isV4, next } from './bits'
import { type Place, nobodysAddress } from './journey'
import { whoHas } from './outside'
import {
  up,
  there,
  subnetThere,
  liveNetworks,
  subnetAt,
  natAt,
  frontendAt,
  interfaceAt,
} from './world'

export interface End {
  readonly kind: string
  readonly place: Place | null
  readonly network: string | null
  readonly addresses: readonly Bits[]
  readonly publicAddress?: Bits
}

/** Both ends with one address each; several targets where a name has several records. */
export function endsOf(
  estate: Estate,
  asked: Asked,
): { from: End; targets: { to: End; src: Bits; dst: Bits }[] } | null {
  if (asked.from.startsWith('name:')) return null
  if (asked.to.startsWith('name:')) {
    const from = endOf(estate, asked.from, 'from', null)
    if (from === null || from === 'ambiguous') return null
    return byName(estate, from, asked.to.slice('name:'.length).toLowerCase())
  }
  let from = endOf(estate, asked.from, 'from', null)
  let to = endOf(
    estate,
    asked.to,
    'to',
    from === null || from === 'ambiguous' ? null : from.network,
  )
  if (from === 'ambiguous' && to !== null && to !== 'ambiguous')
    from = endOf(estate, asked.from, 'from', to.network)
  if (!asked.from.includes(':') && to === 'ambiguous' && from !== null && from !== 'ambiguous')
    to = endOf(estate, asked.to, 'to', from.network)
  if (from === null || to === null || from === 'ambiguous' || to === 'ambiguous') return null
  for (const family of ['4', '6']) {
    const src = from.addresses.find((one) => one[0] === family)
    const dst = to.addresses.find((one) => one[0] === family)
    if (src === undefined || dst === undefined) continue
    const fromInternet = 'outside' in from.place! && from.kind !== 'site'
    return {
      from,
      targets: [
        {
          to,
          src,
          dst: fromInternet && family === '4' && to.publicAddress ? to.publicAddress : dst,
        },
      ],
    }
  }
  return null
}

function byName(estate: Estate, from: End, name: string): ReturnType<typeof endsOf> {
  const matches = (pattern: string): boolean =>
    new RegExp(`^${pattern.toLowerCase().replaceAll('.', '\\.').replaceAll('*', '.*')}$`).test(name)
  const zones = [...estate.nameZones]
    .filter(
      ([id, zone]) =>
        up(zone) &&
        zone.linkedTo?.includes(from.network ?? '') &&
        (name === id || name.endsWith(`.${id}`)),
    )
    .sort(([a], [b]) => b.length - a.length)
  const record = zones.map(([, zone]) => zone.records?.[name]).find((found) => found?.length)
  const endpoint = [...estate.endpoints.values()].find(
    (one) =>
      up(one) &&
      one.style === 'addressed' &&
      one.privateNames &&
      one.network === from.network &&
      estate.services.get(one.service)?.names?.some(matches),
  )
  const ofEndpoint =
    endpoint?.style === 'addressed'
      ? (endpoint.interfaces ?? []).flatMap(
          (id) => there(estate.interfaces.get(id))?.addresses ?? [],
        )
      : []
  const known = [...estate.services.values(), ...estate.parties.values()].find(
    (one) => up(one) && one.names?.some(matches) && one.ranges?.length,
  )
  const first = (family: string): string[] =>
    (known?.ranges ?? [])
      .map((text) => text.split('/')[0]!)
      .filter((text) => bitsOf(text)[0] === family)
      .slice(0, 1)
  const addresses = (
    record ?? (ofEndpoint.length > 0 ? ofEndpoint : [...first('4'), ...first('6')])
  ).map(bitsOf)
  const nobody: End = { kind: 'unknown name', place: null, network: null, addresses: [] }
  if (addresses.length === 0)
    return { from, targets: [{ to: nobody, src: from.addresses[0]!, dst: bitsOf('0.0.0.0') }] }
  for (const family of ['4', '6']) {
    const src = from.addresses.find((one) => one[0] === family)
    const fitting = addresses.filter((one) => one[0] === family)
    if (src === undefined || fitting.length === 0) continue
    return {
      from,
      targets: fitting.map((dst) => ({ to: { ...nobody, kind: 'address' }, src, dst })),
    }
  }
  return null
}

const oneOfEach = (addresses: readonly Bits[]): Bits[] =>
  ['4', '6'].flatMap((family) => addresses.find((one) => one[0] === family) ?? [])

function endOf(
  estate: Estate,
  text: string,
  part: 'from' | 'to',
  otherNetwork: string | null,
): End | null | 'ambiguous' {
  const outside = (kind: string, ref: string, addresses: readonly Bits[]): End => ({
    kind,
    place: { outside: ref },
    network: null,
    addresses: oneOfEach(addresses),
  })
  if (text === 'internet')
    return outside('internet', 'internet', [nobodysAddress(estate, 4), nobodysAddress(estate, 6)])
  const [, kind, id = ''] = /^(interface|subnet|site|party|service):(.*)$/.exec(text) ?? []
  if (kind === 'interface') {
    const one = there(estate.interfaces.get(id))
    if (!one?.addresses?.length || !subnetThere(estate, one.subnet)) return null
    const subnet = one.subnet!
    const network = estate.subnets.get(subnet)!.network
    const own = one.publicAddress === undefined ? {} : { publicAddress: bitsOf(one.publicAddress) }
    return {
      kind,
      place: { inside: { subnet, iface: id }, ref: `interfaces/${id}` },
      network,
      addresses: oneOfEach(one.addresses.map(bitsOf)),
      ...own,
    }
  }
  if (kind === 'subnet') {
    const subnet = estate.subnets.get(id)
    if (!subnet || !subnetThere(estate, id)) return null
    const addresses = ['4', '6'].flatMap((family) => {
      const range = subnet.ranges.map(prefixBits).find((one) => one[0] === family)
      return range === undefined ? [] : lowestFree(estate, subnet.network, range)
    })
    return addresses.length === 0
      ? null
      : {
          kind,
          place: { inside: { subnet: id, iface: null }, ref: `subnets/${id}` },
          network: subnet.network,
          addresses,
        }
  }
  if (kind !== undefined) {
    const section = ({ site: 'sites', party: 'parties', service: 'services' } as const)[
      kind as 'site'
    ]
    const object = there<{ state?: string; ranges?: string[] }>(estate[section].get(id) as never)
    return object?.ranges?.length
      ? outside(
          kind,
          `${section}/${id}`,
          object.ranges.map((range) => bitsOf(range.split('/')[0]!)),
        )
      : null
  }
  return addressEnd(estate, bitsOf(text), part, otherNetwork, outside)
}

function addressEnd(
  estate: Estate,
  address: Bits,
  part: 'from' | 'to',
  otherNetwork: string | null,
  outside: (kind: string, ref: string, addresses: readonly Bits[]) => End,
): End | null | 'ambiguous' {
  const isOne = (texts: readonly (string | undefined)[]): boolean =>
    texts.some((text) => text !== undefined && bitsOf(text) === address)
  if (part === 'from') {
    const owner = [...estate.interfaces].find(([, one]) => there(one) && isOne([one.publicAddress]))
    const host = owner && endOf(estate, `interface:${owner[0]}`, part, null)
    if (owner) return host && host !== 'ambiguous' ? { ...host, kind: 'address' } : null
    const taken = [...estate.nats.values()].flatMap((one) =>
      there(one) && one.kind !== 'private'
        ? [...(one.addresses ?? []), ...(one.rules ?? []).flatMap((r) => r.use)]
        : [],
    )
    const fronts = [...estate.frontends.values()].flatMap((one) =>
      there(one) ? (one.publicAddresses ?? []) : [],
    )
    if (isOne([...taken, ...fronts])) return null
  }
  const networks = liveNetworks(estate).filter(
    ([id]) => subnetAt(estate, id, address) !== undefined,
  )
  if (networks.length > 1 && !networks.some(([id]) => id === otherNetwork)) return 'ambiguous'
  const network = networks.length > 1 ? otherNetwork! : networks[0]?.[0]
  if (network !== undefined) {
    if (
      part === 'from' &&
      (natAt(estate, network, address) ?? frontendAt(estate, network, address))
    )
      return null
    const owner = interfaceAt(estate, network, address)
    const subnet =
      owner === undefined
        ? subnetAt(estate, network, address)!
        : estate.interfaces.get(owner)!.subnet!
    const ref = owner === undefined ? `subnets/${subnet}` : `interfaces/${owner}`
    return {
      kind: 'address',
      place: { inside: { subnet, iface: owner ?? null }, ref },
      network,
      addresses: [address],
    }
  }
  const site = [...estate.sites].find(
    ([, one]) =>
      there(one) && (one.ranges ?? []).some((range) => covers(prefixBits(range), address)),
  )
  if (site) return outside('site', `sites/${site[0]}`, [address])
  if (
    part === 'from' &&
    (!isPublic(address) ||
      liveNetworks(estate).some(([, one]) =>
        (one.ranges ?? []).some((range) => covers(prefixBits(range), address)),
      ))
  )
    return null
  return outside('address', whoHas(estate, address), [address])
}

/** The lowest address of a subnet's range that hosts may use and nobody has. */
function lowestFree(estate: Estate, network: string, range: Bits): Bits[] {
  const taken = new Set<Bits>()
  for (const one of estate.interfaces.values())
    for (const text of one.addresses ?? []) taken.add(bitsOf(text))
  for (const one of [...estate.frontends.values(), ...estate.nats.values()]) {
    const own =
      'privateAddresses' in one
        ? one.privateAddresses
        : (one as { kind?: string; addresses?: string[] }).kind === 'private'
          ? (one as { addresses?: string[] }).addresses
          : []
    if (there(one) && one.network === network) for (const text of own ?? []) taken.add(bitsOf(text))
  }
  const width = range.startsWith('4') ? 33 : 129
  let at = range.padEnd(width, '0')
  if (isV4(range)) for (let i = 0; i < 4; i++) at = next(at)
  while (taken.has(at)) at = next(at)
  return covers(range, at) ? [at] : []
}
