import type { Estate } from '../../src/format/estate'
import { bitsOf, covers, isPublic, isV4, next, prefixBits, textOf, type Bits } from './bits'
import { deliver, send } from './inside'
import { policyAllows } from './firewalls'
import { Arrived, ask, askEdge, lose, Lost, nobodysAddress, turned, type Flow, type Journey, type Place } from './journey'
import { fromSite, onTheInternet, whoHas } from './outside'
import type { Packet } from './rules'
import { frontendAt, interfaceAt, liveNetworks, natAt, subnetAt, subnetThere, there, up } from './world'

export interface Asked {
  readonly from: string
  readonly to: string
  readonly protocol: string
  readonly port: number | null
  readonly sourcePort: number | null
}

/** One path there and back, in the words both implementations share. */
export interface Path {
  readonly verdict: string
  readonly code: string | null
  /** What may be named as having failed. */
  readonly objects: readonly string[]
  readonly direction: string | null
  readonly inner: string | null
  readonly way: readonly string[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
}

interface End {
  readonly kind: string
  readonly place: Place | null
  readonly network: string | null
  readonly addresses: readonly Bits[]
  readonly publicAddress?: Bits
}

/** More paths than these are not counted out. */
const MANY = 400

/** Every path a question has; `null` where it cannot be asked, `'many'` where there are too many. */
export function answersTo(estate: Estate, asked: Asked): readonly Path[] | null | 'many' {
  const ends = endsOf(estate, asked)
  if (ends === null) return null
  const { from, targets } = ends
  const protocol = { icmp: 1, tcp: 6, udp: 17 }[asked.protocol]!
  const paths: Path[] = []
  for (const { to, src, dst } of targets) {
    // Every journey starts anew, and takes at each parting what the script says; then the last parting that has more takes its next.
    const script: number[] = []
    do {
      const counts: number[] = []
      const choose = <T>(options: readonly T[]): T => {
        counts.push(options.length)
        return options[(script[counts.length - 1] ??= 0)]!
      }
      paths.push(onePath(estate, choose, from, to, { src, dst, protocol, sport: asked.sourcePort, dport: asked.port }))
      if (paths.length > MANY) return 'many'
      script.length = counts.length
      while (script.length > 0 && script.at(-1)! + 1 >= counts[script.length - 1]!) script.pop()
      if (script.length > 0) script[script.length - 1]!++
    } while (script.length > 0)
  }
  return paths
}

function onePath(estate: Estate, choose: Journey['choose'], from: End, to: End, packet: Packet): Path {
  const out = journey(estate, choose, packet, null)
  const start = from.place!
  const there = run(() => {
    if (to.kind === 'unknown name') lose(out, 'name-unknown', from.network === null ? (start as { outside: string }).outside : `networks/${from.network}`)
    if ('outside' in start && !start.outside.startsWith('sites/') && !isPublic(packet.dst)) {
      const host = to.kind === 'interface' || to.kind === 'subnet'
      const ref = to.place === null ? 'internet' : 'inside' in to.place ? to.place.ref : to.place.outside
      lose(out, host ? 'no-public-address' : 'private-destination', ref)
    }
    begin(out, start)
  })
  const leavesBy = 'outside' in start ? null : (out.leavesBy ?? out.way.find((ref) => ref.startsWith('peerings/') || ref.startsWith('transits/')) ?? null)
  const common = { way: out.way, leavesBy }
  if (there instanceof Lost) return { ...common, ...said(there, 'forward'), verdict: verdictOf(there.code), seenAs: [] }
  const seenAs = (out.seenAs ?? [textOf(out.packet.src)]).slice().sort()
  const last: Flow = {
    asker: out.flows.at(-1)?.answerer ?? start,
    askerAddress: out.began.src,
    asked: { address: out.began.dst, port: out.began.dport },
    answerer: there.where,
    packet: out.packet,
    translated: out.translated,
    passed: out.passed,
    finals: out.finals,
    firewalls: out.firewalls,
    questions: out.questions,
  }
  // Where a frontend stands between, the flow it opened is answered first, then the one it ended.
  const flows = [...out.flows.map((flow, i): Flow => (i === 0 ? { ...flow, asker: start } : flow)), last].reverse()
  for (const flow of flows) {
    const lost = answer(estate, choose, flow)
    if (lost) return { ...common, ...said(lost, 'return'), verdict: 'one-way', seenAs }
  }
  return { ...common, verdict: 'works', code: null, objects: [], direction: null, inner: null, seenAs }
}

const said = (lost: Lost, direction: string): Pick<Path, 'code' | 'objects' | 'direction' | 'inner'> => ({
  code: lost.code,
  objects: lost.objects,
  direction,
  inner: lost.inner === null ? null : lost.inner.code,
})

function verdictOf(code: string): string {
  if (code === 'looped') return code
  return code.startsWith('denied-') || ['no-state', 'nat-outbound-only', 'gateway-outbound-only'].includes(code) ? 'blocked' : 'blackholed'
}

function journey(estate: Estate, choose: Journey['choose'], packet: Packet, answering: Flow | null): Journey {
  const undo = [...(answering?.translated ?? [])].reverse()
  return {
    estate,
    choose,
    packet,
    began: packet,
    answering,
    undo,
    translated: [],
    passed: [],
    finals: [],
    firewalls: [],
    questions: [],
    flows: [],
    way: [],
    leavesBy: null,
    seenAs: null,
    nat: null,
    been: new Map(),
  }
}

function run(go: () => void): Arrived | Lost {
  try {
    go()
  } catch (end) {
    if (end instanceof Arrived || end instanceof Lost) return end
    throw end
  }
  throw new Error('a journey ended nowhere')
}

function begin(j: Journey, start: Place): void {
  if ('inside' in start) send(j, { spot: start.inside, as: 'host', name: start.ref })
  if (start.behind) {
    j.way.push(start.behind.by)
    deliver(j, start.behind.network, null)
  }
  if (start.outside.startsWith('sites/')) fromSite(j, start.outside.slice('sites/'.length))
  onTheInternet(j)
}

/** The answer to one flow; what it is lost for, if it is. */
function answer(estate: Estate, choose: Journey['choose'], flow: Flow): Lost | null {
  const { protocol } = flow.packet
  const ends = [flow.asker, flow.answerer].flatMap((place) => ('inside' in place ? [place.inside] : []))
  const j = journey(estate, choose, turned(flow.packet), { ...flow, passed: [...flow.passed, ...ends] })
  if ('inside' in flow.answerer && flow.answerer.inside.frontend !== undefined) return backByTheSameWay(j, flow)
  const end = run(() => begin(j, flow.answerer))
  const missed = protocol === 6 ? flow.firewalls.find((seen) => !j.firewalls.some((met) => met.ref === seen.ref))?.ref : undefined
  if (missed !== undefined && (end instanceof Arrived || end.code === 'no-state' || end.code === 'answer-from-other-address'))
    return new Lost('return-bypasses-firewall', [missed])
  return end instanceof Lost ? end : null
}

/** A frontend answers its caller by the way he came: whatever was asked is asked the other way round, and no route is. */
function backByTheSameWay(j: Journey, flow: Flow): Lost | null {
  const end = run(() => {
    for (const question of [...flow.questions].reverse()) {
      j.packet = turned(question.packet)
      const direction = question.direction === 'in' ? 'out' : 'in'
      if ('spot' in question) ask(j, question.spot, direction, question.crosses)
      else if ('edge' in question) askEdge(j, question.edge, direction)
      else {
        const firewall = j.estate.firewalls.get(question.wall.slice('firewalls/'.length))!
        const sides = question.sides && { from: question.sides.to, to: question.sides.from }
        if (!(firewall.stateful ?? true) && !policyAllows(j.estate, firewall, sides, j.packet)) lose(j, 'denied-policy', question.wall)
      }
    }
    throw new Arrived(flow.asker)
  })
  return end instanceof Lost ? end : null
}

/** Both ends with one address each; several targets where a name has several records. */
function endsOf(estate: Estate, asked: Asked): { from: End; targets: { to: End; src: Bits; dst: Bits }[] } | null {
  if (asked.from.startsWith('name:')) return null
  if (asked.to.startsWith('name:')) {
    const from = endOf(estate, asked.from, 'from', null)
    if (from === null || from === 'ambiguous') return null
    return byName(estate, from, asked.to.slice('name:'.length).toLowerCase())
  }
  let from = endOf(estate, asked.from, 'from', null)
  let to = endOf(estate, asked.to, 'to', from === null || from === 'ambiguous' ? null : from.network)
  if (from === 'ambiguous' && to !== null && to !== 'ambiguous') from = endOf(estate, asked.from, 'from', to.network)
  if (!asked.from.includes(':') && to === 'ambiguous' && from !== null && from !== 'ambiguous') to = endOf(estate, asked.to, 'to', from.network)
  if (from === null || to === null || from === 'ambiguous' || to === 'ambiguous') return null
  for (const family of ['4', '6']) {
    const src = from.addresses.find((one) => one[0] === family)
    const dst = to.addresses.find((one) => one[0] === family)
    if (src === undefined || dst === undefined) continue
    const fromInternet = 'outside' in from.place! && from.kind !== 'site'
    return { from, targets: [{ to, src, dst: fromInternet && family === '4' && to.publicAddress ? to.publicAddress : dst }] }
  }
  return null
}

function byName(estate: Estate, from: End, name: string): ReturnType<typeof endsOf> {
  const matches = (pattern: string): boolean => new RegExp(`^${pattern.toLowerCase().replaceAll('.', '\\.').replaceAll('*', '.*')}$`).test(name)
  const zones = [...estate.nameZones]
    .filter(([id, zone]) => up(zone) && zone.linkedTo?.includes(from.network ?? '') && (name === id || name.endsWith(`.${id}`)))
    .sort(([a], [b]) => b.length - a.length)
  const record = zones.map(([, zone]) => zone.records?.[name]).find((found) => found?.length)
  const endpoint = [...estate.endpoints.values()].find(
    (one) => up(one) && one.style === 'addressed' && one.privateNames && one.network === from.network && estate.services.get(one.service)?.names?.some(matches),
  )
  const ofEndpoint = endpoint?.style === 'addressed' ? (endpoint.interfaces ?? []).flatMap((id) => there(estate.interfaces.get(id))?.addresses ?? []) : []
  const known = [...estate.services.values(), ...estate.parties.values()].find((one) => up(one) && one.names?.some(matches) && one.ranges?.length)
  const first = (family: string): string[] =>
    (known?.ranges ?? [])
      .map((text) => text.split('/')[0]!)
      .filter((text) => bitsOf(text)[0] === family)
      .slice(0, 1)
  const addresses = (record ?? (ofEndpoint.length > 0 ? ofEndpoint : [...first('4'), ...first('6')])).map(bitsOf)
  const nobody: End = { kind: 'unknown name', place: null, network: null, addresses: [] }
  if (addresses.length === 0) return { from, targets: [{ to: nobody, src: from.addresses[0]!, dst: bitsOf('0.0.0.0') }] }
  for (const family of ['4', '6']) {
    const src = from.addresses.find((one) => one[0] === family)
    const fitting = addresses.filter((one) => one[0] === family)
    if (src === undefined || fitting.length === 0) continue
    return { from, targets: fitting.map((dst) => ({ to: { ...nobody, kind: 'address' }, src, dst })) }
  }
  return null
}

const oneOfEach = (addresses: readonly Bits[]): Bits[] => ['4', '6'].flatMap((family) => addresses.find((one) => one[0] === family) ?? [])

function endOf(estate: Estate, text: string, part: 'from' | 'to', otherNetwork: string | null): End | null | 'ambiguous' {
  const outside = (kind: string, ref: string, addresses: readonly Bits[]): End => ({
    kind,
    place: { outside: ref },
    network: null,
    addresses: oneOfEach(addresses),
  })
  if (text === 'internet') return outside('internet', 'internet', [nobodysAddress(estate, 4), nobodysAddress(estate, 6)])
  const [, kind, id = ''] = /^(interface|subnet|site|party|service):(.*)$/.exec(text) ?? []
  if (kind === 'interface') {
    const one = there(estate.interfaces.get(id))
    if (!one?.addresses?.length || !subnetThere(estate, one.subnet)) return null
    const subnet = one.subnet!
    const network = estate.subnets.get(subnet)!.network
    const own = one.publicAddress === undefined ? {} : { publicAddress: bitsOf(one.publicAddress) }
    return { kind, place: { inside: { subnet, iface: id }, ref: `interfaces/${id}` }, network, addresses: oneOfEach(one.addresses.map(bitsOf)), ...own }
  }
  if (kind === 'subnet') {
    const subnet = estate.subnets.get(id)
    if (!subnet || !subnetThere(estate, id)) return null
    const addresses = ['4', '6'].flatMap((family) => {
      const range = subnet.ranges.map(prefixBits).find((one) => one[0] === family)
      return range === undefined ? [] : lowestFree(estate, subnet.network, range)
    })
    return addresses.length === 0 ? null : { kind, place: { inside: { subnet: id, iface: null }, ref: `subnets/${id}` }, network: subnet.network, addresses }
  }
  if (kind !== undefined) {
    const section = ({ site: 'sites', party: 'parties', service: 'services' } as const)[kind as 'site']
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
  const isOne = (texts: readonly (string | undefined)[]): boolean => texts.some((text) => text !== undefined && bitsOf(text) === address)
  if (part === 'from') {
    const owner = [...estate.interfaces].find(([, one]) => there(one) && isOne([one.publicAddress]))
    const host = owner && endOf(estate, `interface:${owner[0]}`, part, null)
    if (owner) return host && host !== 'ambiguous' ? { ...host, kind: 'address' } : null
    const taken = [...estate.nats.values()].flatMap((one) =>
      there(one) && one.kind !== 'private' ? [...(one.addresses ?? []), ...(one.rules ?? []).flatMap((r) => r.use)] : [],
    )
    const fronts = [...estate.frontends.values()].flatMap((one) => (there(one) ? (one.publicAddresses ?? []) : []))
    if (isOne([...taken, ...fronts])) return null
  }
  const networks = liveNetworks(estate).filter(([id]) => subnetAt(estate, id, address) !== undefined)
  if (networks.length > 1 && !networks.some(([id]) => id === otherNetwork)) return 'ambiguous'
  const network = networks.length > 1 ? otherNetwork! : networks[0]?.[0]
  if (network !== undefined) {
    if (part === 'from' && (natAt(estate, network, address) ?? frontendAt(estate, network, address))) return null
    const owner = interfaceAt(estate, network, address)
    const subnet = owner === undefined ? subnetAt(estate, network, address)! : estate.interfaces.get(owner)!.subnet!
    const ref = owner === undefined ? `subnets/${subnet}` : `interfaces/${owner}`
    return { kind: 'address', place: { inside: { subnet, iface: owner ?? null }, ref }, network, addresses: [address] }
  }
  const site = [...estate.sites].find(([, one]) => there(one) && (one.ranges ?? []).some((range) => covers(prefixBits(range), address)))
  if (site) return outside('site', `sites/${site[0]}`, [address])
  if (part === 'from' && (!isPublic(address) || liveNetworks(estate).some(([, one]) => (one.ranges ?? []).some((range) => covers(prefixBits(range), address)))))
    return null
  return outside('address', whoHas(estate, address), [address])
}

/** The lowest address of a subnet's range that hosts may use and nobody has. */
function lowestFree(estate: Estate, network: string, range: Bits): Bits[] {
  const taken = new Set<Bits>()
  for (const one of estate.interfaces.values()) for (const text of one.addresses ?? []) taken.add(bitsOf(text))
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
