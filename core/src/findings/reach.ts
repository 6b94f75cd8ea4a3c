import { compareAddresses, formatAddress, parseAddress, type Address } from '../address/address'
import { firstFrom } from '../hops/onward'
import { formatPrefix, prefixOf } from '../address/prefix'
import { rangeSetOf, subtractRanges, intersectRanges, type Range } from '../address/ranges'
import { internetRanges } from '../expectations/selection'
import { eachFlow, type Flow } from '../flows/flow'
import type { Model, SubnetModel } from '../model/model'
import { hasPorts, ICMP, packetJson, protocolName, TCP } from '../packet/packet'
import { joinBoxes, packetOf, type PacketBox } from '../packet/packet-set'
import { placeOfProtocol, protocolAt } from '../packet/protocols'
import { destinationPrefixes } from '../model/routes'
import { ruleBook } from '../rules/rule-book'
import type { Question } from '../trace/question'
import { finding, type Finding, type Severity } from './finding'
import { endOf, FAMILIES, firewallsOf, fromText, listText, nameOf, passedByRules, rangeTexts, type Check, type Survey } from './survey'
import { subnetSpaceRanges } from './ways'

/** What rules and routes together let in and out, asked for all packets. */
export const checkReach: Check = (survey) => [...fromInternet(survey), ...ephemeral(survey), ...rulesAndRoutes(survey), ...segments(survey)]

const ALL_PORTS: Range = { from: 0, to: 65535 }
const one = (value: Address): Range => ({ from: value, to: value })

/** Ports by which hosts are run, or kept data is had; the rest serves. */
const ADMINISTRATION = new Set([22, 23, 135, 139, 445, 2375, 3389, 5900, 5985, 5986, 6443, 10250])
const DATABASES = new Set([1433, 1521, 2181, 3306, 5432, 5984, 6379, 7000, 9042, 9200, 11211, 27017])

/** Each interface that the internet reaches, on which ports, and whether it comes in past the inspection its way out has. */
function fromInternet(survey: Survey): Finding[] {
  const { model } = survey
  const out: Finding[] = []
  const outside = { in: 'outside', ref: 'internet' } as const
  const sources = model.internetSpace
  for (const host of model.interfaces) {
    const subnet = model.subnets[host.subnet]
    if (!subnet || !host.up || !model.index.interfaces.has(host.id) || model.firewallAt.has(host.index)) continue
    const boxes = doorsTo(model, host.index).flatMap((dst) =>
      sources
        .filter((src) => typeof src.from === typeof dst)
        .map((src): PacketBox => ({ src, dst: one(dst), protocol: { from: 0, to: 255 }, srcPort: ALL_PORTS, dstPort: ALL_PORTS })),
    )
    const opened: Flow[] = []
    let round: Flow | null = null
    const guards = guardsOf(survey, subnet, host.index)
    eachFlow(model, outside, throughRules(model, host.index, boxes), true, (flow) => {
      const branch = flow.branches.find(
        (b) =>
          b.delivered && b.deliveredAt?.in === 'subnet' && b.deliveredAt.place.interface === host.index && !b.way.some((ref) => ref.startsWith('frontends/')),
      )
      if (!branch || isOwn(model, flow.box.src)) return
      // Reached is who can answer; what only comes in is told of as going round, if it does.
      if (branch.verdict === 'works') opened.push(flow)
      if (guards.length > 0 && round === null && !branch.way.some((ref) => ref.startsWith('firewalls/'))) round = flow
    })
    if (round !== null) out.push(inRound(subnet, host.ref, guards, round))
    if (opened.length === 0) continue
    const ports = openPorts(opened)
    const { packet, worst } = telling(opened)
    const doors = [...new Set(opened.flatMap((flow) => flow.branches.flatMap((b) => b.way)))].filter((ref) => ref.includes('/'))
    const sets = [...host.ruleSets, ...subnet.ruleSets, ...(subnet.boundary >= 0 ? [subnet.boundary] : [])].map((index) => ruleBook(model).set(index).ref)
    const question = questionOf(packet)
    out.push(
      finding({
        code: 'open-to-internet',
        severity: worst,
        anchor: host.ref,
        objects: [host.ref, ...sets, subnet.ref, ...doors],
        sentence: `${host.id} can be reached from the internet on ${listText(ports, 4)}.`,
        ranges: ports,
        packet: packetJson(packet),
        question,
      }),
    )
  }
  return unique(out)
}

function inRound(subnet: SubnetModel, host: string, guards: readonly string[], { packet, branches }: Flow): Finding {
  return finding({
    code: 'in-round-firewall',
    severity: 'high',
    anchor: subnet.ref,
    objects: [subnet.ref, host, ...new Set(branches.flatMap((branch) => branch.way)), ...guards].filter((ref) => ref.includes('/')),
    sentence: `Traffic from the internet reaches ${nameOf(host)} in ${subnet.id} without passing ${listText(guards.map(nameOf))}, which its way out passes.`,
    packet: packetJson(packet),
    question: questionOf(packet),
  })
}

/** The question that asks for one packet from outside. */
const questionOf = (packet: Flow['packet']): Question => ({
  from: formatAddress(packet.src),
  to: formatAddress(packet.dst),
  protocol: protocolName(packet.protocol),
  port: packet.dstPort,
  sourcePort: packet.srcPort,
})

/**
 * What of some boxes the host's own rules can let in at all: asked of the rules alone, which is far
 * less work than walking. Where a firewall translates on the way, or a door's own table may lead
 * through one, nothing is left out.
 */
function throughRules(model: Model, index: number, boxes: readonly PacketBox[]): readonly PacketBox[] {
  const host = model.interfaces[index]!
  const inside = host.addresses.find((address) => typeof address === 'number')
  const network = model.subnets[host.subnet]!.network
  if (model.attached.gateways.get(network)?.some((gateway) => gateway.table >= 0)) return boxes
  return boxes.flatMap((box) => {
    const dst = box.dst.from
    const own = dst === host.publicAddress ? inside : host.addresses.includes(dst) ? dst : undefined
    if (own === undefined) return [box]
    return joinBoxes(passedByRules(model, index, 'in', [{ ...box, dst: one(own) }])).map((passed) => ({ ...passed, dst: box.dst }))
  })
}

/** Whether a span of sources is nothing but public addresses the estate itself has: not the internet. */
function isOwn(model: Model, { from, to }: Range): boolean {
  const internet = outsideSpace(model)
  const next = internet[firstFrom(internet, from)]
  return next === undefined || compareAddresses(next.from, to) > 0
}

const outsides = new WeakMap<Model, ReturnType<typeof internetRanges>>()
function outsideSpace(model: Model): ReturnType<typeof internetRanges> {
  let known = outsides.get(model)
  if (!known) outsides.set(model, (known = internetRanges(model)))
  return known
}

/** One finding for each fingerprint: several hosts of a subnet may show the same. */
function unique(findings: readonly Finding[]): Finding[] {
  const known = new Map<string, Finding>()
  for (const each of findings) {
    const before = known.get(each.fingerprint)
    known.set(each.fingerprint, before ? { ...before, objects: [...new Set([...before.objects, ...each.objects])] } : each)
  }
  return [...known.values()]
}

/** The addresses by which the internet could reach an interface: its own, and those translated to it. */
function doorsTo(model: Model, index: number): Address[] {
  const host = model.interfaces[index]!
  const global = host.addresses.filter((address) => typeof address === 'bigint')
  const translated = model.firewalls.flatMap(({ source, interfaces, up }) => {
    if (source.style !== 'routed' || !up) return []
    const leads = (source.destinationTranslation ?? []).some((rule) => host.addresses.includes(parseAddress(rule.forward.address)!))
    return leads ? interfaces.flatMap((side) => model.interfaces[side.interface]!.publicAddress ?? []) : []
  })
  return [...new Set([...(host.publicAddress === null ? [] : [host.publicAddress]), ...global, ...translated])]
}

/** The firewalls that a host’s way to the internet passes. */
function guardsOf(survey: Survey, subnet: SubnetModel, index: number): string[] {
  const table = survey.tablesOf(subnet).find(({ kind }) => kind.interfaces.includes(index))
  if (!table) return []
  const parts = FAMILIES.flatMap((family) => survey.toInternet(subnet, table, family)).filter(({ outcome }) => outcome.cause === null)
  return [...new Set(parts.flatMap(({ outcome }) => firewallsOf(outcome.ways)))]
}

/** What is open, as `tcp 443` or `every protocol`. */
function openPorts(flows: readonly Flow[]): string[] {
  const out = new Set<string>()
  for (const { box } of flows) {
    if (box.protocol.from === 0 && box.protocol.to === 255) return ['every protocol']
    for (let place = Number(box.protocol.from); place <= Number(box.protocol.to) && out.size < 24; place++) {
      const protocol = protocolAt(place)
      if (!hasPorts(protocol)) out.add(`${protocolName(protocol)}`)
      else {
        const { from, to } = box.dstPort
        out.add(`${protocolName(protocol)} ${from === 0 && to === 65535 ? 'every port' : from === to ? from : `${from}-${to}`}`)
      }
    }
  }
  return [...out].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
}

/** The packet that tells most of what is open, and how grave that is. */
function telling(flows: readonly Flow[]): { packet: Flow['packet']; worst: Severity } {
  const has = (ports: ReadonlySet<number>) => (flow: Flow) =>
    flow.box.protocol.from <= placeOfProtocol(TCP) && [...ports].some((port) => flow.box.dstPort.from <= port && port <= flow.box.dstPort.to)
  const admin = flows.find(has(ADMINISTRATION))
  const data = flows.find(has(DATABASES))
  const at = (flow: Flow, ports: ReadonlySet<number>): Flow['packet'] =>
    packetOf(flow.box, { srcPort: 50000, dstPort: [...ports].find((port) => flow.box.dstPort.from <= port && port <= flow.box.dstPort.to) ?? 443 })
  if (admin) return { packet: at(admin, ADMINISTRATION), worst: 'critical' }
  if (data) return { packet: at(data, DATABASES), worst: 'critical' }
  const pings = flows.every((flow) => flow.box.protocol.from >= placeOfProtocol(ICMP))
  return { packet: flows[0]!.packet, worst: pings ? 'note' : 'medium' }
}

/** Requests that stateless rules let through, whose answers they stop for some or all client ports. */
function ephemeral(survey: Survey): Finding[] {
  const { model } = survey
  const book = ruleBook(model)
  const stateless = (index: number): boolean => index >= 0 && !book.set(index).stateful
  const guarded = survey.subnets.filter(
    (subnet) =>
      stateless(subnet.boundary) ||
      subnet.ruleSets.some(stateless) ||
      subnet.interfaces.some((index) => model.interfaces[index]!.ruleSets.some(stateless) || stateless(model.interfaces[index]!.localRules)),
  )
  const out: Finding[] = []
  const asked = new Set<string>()
  const ask = (from: Parameters<typeof eachFlow>[1], src: Range, dst: Address, subnet: SubnetModel, text: string): void => {
    const box: PacketBox = { src, dst: one(dst), protocol: one(placeOfProtocol(TCP)), srcPort: { from: 1024, to: 65535 }, dstPort: ALL_PORTS }
    eachFlow(model, from, [box], true, (flow) => {
      for (const branch of flow.branches) {
        const { cause } = branch
        if (!branch.delivered || cause?.direction !== 'return' || !cause.code.startsWith('denied-') || !cause.object.startsWith('ruleSets/')) continue
        if (book.set(model.index.ruleSets.get(nameOf(cause.object))!).stateful) continue
        const { from: low, to: high } = flow.box.srcPort
        out.push(
          finding({
            code: 'hole-ephemeral',
            severity: 'high',
            anchor: cause.object,
            objects: [cause.object, subnet.ref],
            sentence: `${nameOf(cause.object)} lets requests ${text} through, but not their answers to ports ${low === 1024 && high === 65535 ? '1024-65535' : `${low}-${high}, a part of 1024-65535`}.`,
            packet: packetJson(flow.packet),
            question: {
              from:
                from.in === 'subnet' && from.place.interface >= 0 ? `interface:${model.interfaces[from.place.interface]!.id}` : formatAddress(flow.packet.src),
              to: formatAddress(dst),
              protocol: 'tcp',
              port: flow.packet.dstPort,
              sourcePort: flow.packet.srcPort,
            },
            facts: [`ports ${low}-${high}`],
          }),
        )
      }
    })
  }
  const internet = internetRanges(model)
  for (const subnet of guarded) {
    for (const table of survey.tablesOf(subnet)) {
      const sets = table.kind.interfaces.slice(0, 1).flatMap((index) => model.interfaces[index]!.ruleSets)
      for (const family of FAMILIES) {
        const own = table.kind.sources[family]
        const far = internet.find((range) => (typeof range.from === 'number') === (family === 4))
        if (own === null || !far) continue
        const doors = table.kind.interfaces
          .slice(0, 1)
          .flatMap((index) => doorsTo(model, index))
          .filter((address) => typeof address === typeof own)
        const alike = `${subnet.network} ${subnet.table} ${subnet.boundary} ${subnet.ruleSets.join()} ${sets.join()} ${family} ${table.kind.hasPublicAddress}`
        if (asked.has(alike)) continue
        asked.add(alike)
        ask(endOf(table), one(own), far.from, subnet, 'to the internet')
        for (const door of doors) ask({ in: 'outside', ref: 'internet' }, one(far.from), door, subnet, 'from the internet')
        for (const other of survey.subnets) {
          if (other === subnet || other.network !== subnet.network) continue
          for (const peer of survey.tablesOf(other)) {
            const address = peer.kind.sources[family]
            const key = `${subnet.boundary} ${subnet.ruleSets.join()} ${sets.join()} ${other.boundary} ${other.ruleSets.join()} ${peer.kind.interfaces
              .slice(0, 1)
              .flatMap((index) => model.interfaces[index]!.ruleSets)
              .join()} ${family} ${subnet.network}`
            if (address === null || asked.has(key)) continue
            asked.add(key)
            ask(endOf(peer), one(address), own, subnet, `from ${other.id}`)
            ask(endOf(table), one(own), address, subnet, `to ${other.id}`)
          }
        }
      }
    }
  }
  return unique(out)
}

/** Rules that name somewhere no route leads, and routes to where no rule lets anything go. */
function rulesAndRoutes(survey: Survey): Finding[] {
  const { model } = survey
  const out: Finding[] = []
  const known = new Map<string, ReturnType<typeof rangeSetOf>>()
  const inside = [
    ...subnetSpaceRanges(model),
    ...rangeSetOf([...model.index.sites.keys()].flatMap((id) => (model.estate.sites.get(id)?.ranges ?? []).map(prefixOf))),
  ]
  const places = rangeSetOf([])
    .concat(inside)
    .sort((a, b) => (typeof a.from === typeof b.from ? (a.from < b.from ? -1 : 1) : typeof a.from === 'number' ? -1 : 1))
  const namedBy = (set: number): ReturnType<typeof rangeSetOf> => {
    const { ref } = ruleBook(model).set(set)
    let ranges = known.get(ref)
    if (!ranges) {
      const rules = model.estate.ruleSets.get(nameOf(ref))?.rules ?? []
      const prefixes = rules
        .filter((rule) => rule.direction === 'out' && rule.action !== 'deny')
        .flatMap((rule) =>
          (rule.peers ?? []).flatMap((peer) =>
            typeof peer === 'string'
              ? peer.includes('/') && !peer.endsWith('/0')
                ? [prefixOf(peer)]
                : []
              : 'prefixList' in peer
                ? destinationPrefixes(model.estate, peer)
                : [],
          ),
        )
      known.set(ref, (ranges = intersectRanges(rangeSetOf(prefixes), places)))
    }
    return ranges
  }
  for (const subnet of survey.subnets) {
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      const [index] = table.kind.interfaces
      if (index === undefined) continue
      const sets = [...model.interfaces[index]!.ruleSets, ...subnet.ruleSets]
      for (const set of sets) {
        const wanted = subtractRanges(namedBy(set), rangeSetOf(subnet.allRanges))
        if (wanted.length === 0) continue
        const parts = FAMILIES.flatMap((family) => survey.meet(subnet, table, family, wanted))
        const lost = parts.filter(({ outcome }) => outcome.cause !== null)
        if (parts.length === 0 || lost.length < parts.length) continue
        const { ref } = ruleBook(model).set(set)
        out.push(
          finding({
            code: 'hole-rules-without-route',
            severity: 'medium',
            anchor: subnet.ref,
            objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), ref],
            sentence: `${nameOf(ref)} lets ${subnet.id} reach ${listText(rangeTexts(wanted, 3))}, but no route leads there (${lost[0]!.outcome.cause!.code}).`,
            part: ref,
            ranges: rangeTexts(wanted, 20),
            question: { from: fromText(model, subnet, table), to: formatAddress(lost[0]!.ranges[0]!.from) },
          }),
        )
      }
      out.push(...routesWithoutRules(survey, subnet, table))
    }
  }
  return unique(out)
}

function routesWithoutRules(survey: Survey, subnet: SubnetModel, table: ReturnType<Survey['tablesOf']>[number]): Finding[] {
  const { model } = survey
  return FAMILIES.flatMap((family) =>
    table[family].flatMap(({ hop, from, to }) => {
      const route = hop.winners.find(
        (winner) => winner.origin === 'table' && winner.prefix.length > 0 && winner.target.kind !== 'local' && winner.target.kind !== 'drop',
      )
      if (!route || hop.cause !== null || hop.reaches === 'internet') return []
      const meant = intersectRanges([{ from, to }], subtractRanges(subnetSpaceOrSites(model), rangeSetOf(subnet.allRanges)))
      if (meant.length === 0 || table.kind.interfaces.some((index) => survey.rulesAllow(index, meant))) return []
      const prefix = rangeTexts([{ from, to }], 3)
      const sets = [...new Set(table.kind.interfaces.flatMap((index) => [...model.interfaces[index]!.ruleSets, ...subnet.ruleSets]))].map(
        (set) => ruleBook(model).set(set).ref,
      )
      return [
        finding({
          code: 'hole-route-without-rules',
          severity: 'medium',
          anchor: subnet.ref,
          objects: [...sets, subnet.ref, model.tables[route.table]!.ref],
          sentence: `A route leads ${subnet.id} to ${listText(prefix)}, but no rule of its hosts lets anything go there.`,
          part: `${model.tables[route.table]!.id} ${formatPrefix(route.prefix)}`,
          ranges: prefix,
          question: { from: fromText(model, subnet, table), to: formatAddress(meant[0]!.from) },
        }),
      ]
    }),
  )
}

const spaces = new WeakMap<Model, ReturnType<typeof rangeSetOf>>()
function subnetSpaceOrSites(model: Model): ReturnType<typeof rangeSetOf> {
  let known = spaces.get(model)
  if (!known) {
    const sites = [...model.index.sites.keys()].flatMap((id) => (model.estate.sites.get(id)?.ranges ?? []).map(prefixOf))
    const subnets = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id)).flatMap((subnet) => subnet.allRanges)
    spaces.set(model, (known = rangeSetOf([...subnets, ...sites])))
  }
  return known
}

/** Segments that are expected to be apart, and are not. */
function segments({ model, expectations }: Survey): Finding[] {
  return expectations.flatMap((result) => {
    if (result.must !== 'never-reach' || result.state !== 'broken' || !result.from || !result.to || !isInside(result.from) || !isInside(result.to)) return []
    const subnet = subnetOfRef(model, result.from)
    return [
      finding({
        code: 'leak-segment',
        severity: 'critical',
        anchor: subnet,
        objects: [subnet, result.from, result.to, `expectations/${result.id}`],
        sentence: `${result.id} expects ${nameOf(result.from)} and ${nameOf(result.to)} to be apart, but a packet gets from one to the other.`,
        part: result.id,
        ...(result.packet
          ? {
              packet: result.packet,
              question: {
                from: result.from.startsWith('interfaces/') ? `interface:${nameOf(result.from)}` : result.packet.src,
                to: result.packet.dst,
                protocol: result.packet.protocol,
                port: result.packet.dstPort,
                sourcePort: result.packet.srcPort,
              },
            }
          : {}),
        facts: result.because === null ? [] : [result.because],
      }),
    ]
  })
}

const isInside = (ref: string): boolean => /^(interfaces|subnets|frontends)\//.test(ref)

function subnetOfRef(model: Model, ref: string): string {
  if (ref.startsWith('subnets/')) return ref
  const index = ref.startsWith('interfaces/')
    ? model.interfaces[model.index.interfaces.get(nameOf(ref)) ?? -1]?.subnet
    : model.frontends[model.index.frontends.get(nameOf(ref)) ?? -1]?.subnet
  return model.subnets[index ?? -1]?.ref ?? ref
}
