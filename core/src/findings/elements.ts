import { formatAddress, lowestOf, type Address } from '../address/address'
import { formatPrefix, prefixOf, prefixesOverlap } from '../address/prefix'
import { rangesContain, rangeSetOf } from '../address/ranges'
import { pointer } from '../mend/change'
import { derivedAndCompared, sameItems } from '../model/derived'
import type { Model, NatModel } from '../model/model'
import { TCP } from '../packet/packet'
import type { Question } from '../trace/question'
import { startState, walk } from '../walk/engine'
import { lowestInternetAddress } from '../walk/public-address'
import { finding, type Finding } from './finding'
import { appendRoutes, keepAddress, sharePorts } from './mends'
import {
  check,
  checkWhole,
  fromText,
  idsOf,
  listText,
  nameOf,
  presentOf,
  rangesOf,
  type Survey,
} from './survey'

/** What is said of a translator by itself. */
export const checkNats = check(
  ({ model }) => presentOf(model, 'nats'),
  (survey, index) => [
    ...withoutWayOut(survey, survey.model.nats[index]!),
    ...capacity(survey, survey.model.nats[index]!),
  ],
)

function withoutWayOut(survey: Survey, nat: NatModel): Finding[] {
  const { model } = survey
  const subnet = model.subnets[nat.subnet]
  if (nat.kind !== 'public' || !nat.up || !subnet || nat.addresses.length === 0) return []
  const packet = {
    src: lowestOf(4),
    dst: lowestInternetAddress(model, 4),
    protocol: TCP,
    srcPort: 50000,
    dstPort: 443,
  }
  const context = {
    model,
    direction: 'forward',
    answers: null,
    about: 'routes',
    evidence: false,
    scope: null,
    beyondFaults: false,
  } as const
  const lost = walk(
    context,
    startState(packet, { at: 'nat', nat: nat.index, fromSubnet: nat.subnet }),
  ).walks.find((one) => one.cause?.code === 'nat-without-way-out')
  if (!lost) return []
  const inner = lost.cause!.inner!
  return [
    finding({
      code: 'hole-nat-without-way-out',
      severity: 'critical',
      anchor: nat.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        nat.ref,
        inner.object.includes('/') ? inner.object : null,
      ],
      sentence: `${nat.id} sits in ${subnet.id}, which itself has no way to the internet (${inner.code} at ${nameOf(inner.object)}): everything sent to it is lost.`,
      question: lostAt(survey, nat),
      facts: [`its own packets are lost: ${inner.code} at ${inner.object}`],
      mend: natDoor(model, nat),
    }),
  ]
}

/** A question whose packet is lost at a translator: from the first subnet of its network that sends there. */
function lostAt(survey: Survey, nat: NatModel): Question | undefined {
  const { model } = survey
  for (const index of model.networks[nat.network]?.subnets ?? []) {
    const subnet = model.subnets[index]!
    const table = survey
      .tablesOf(subnet)
      .find((one) =>
        survey.toInternet(subnet, one, 4).some(({ outcome }) => outcome.cause?.object === nat.ref),
      )
    if (table) return { from: fromText(model, subnet, table), to: 'internet' }
  }
  return undefined
}

/** A default route from the translator's subnet to an internet gateway of its network. */
function natDoor(model: Model, nat: NatModel): Finding['mend'] {
  const subnet = model.subnets[nat.subnet]!
  const door = model.attached.gateways
    .get(nat.network)
    ?.find((gateway) => gateway.kind === 'internet' && gateway.up)
  if (!door || subnet.table < 0) return null
  const table = model.tables[subnet.table]!
  const at = (table.source.routes ?? []).findIndex((route) => route.to === '0.0.0.0/0')
  const value = { to: '0.0.0.0/0', via: { gateway: door.id } }
  const path = pointer('routeTables', table.id, 'routes', at)
  return {
    what: `lead the default route of ${table.id} to ${door.id}`,
    changes: at >= 0 ? [{ op: 'replace', path, value }] : appendRoutes(table, [value]),
  }
}

/** Source ports an address offers. */
const PORTS_PER_ADDRESS = 64512

/** The elements that a subnet's ways to the internet pass, each with the hosts that send there. */
const passedBy = (survey: Survey, index: number): ReadonlyMap<string, readonly number[]> =>
  derivedAndCompared(
    survey.model,
    `passed on the way to the internet by ${index}`,
    () => {
      const subnet = survey.model.subnets[index]!
      const found = new Map<string, number[]>()
      for (const table of survey.tablesOf(subnet)) {
        const refs = new Set(
          survey.toInternet(subnet, table, 4).flatMap(({ outcome }) => outcome.ways.flat()),
        )
        for (const ref of refs)
          found.set(ref, [...(found.get(ref) ?? []), ...table.kind.interfaces])
      }
      return found
    },
    (a, b) =>
      sameItems(a.keys(), b.keys()) &&
      [...a].every(([ref, hosts]) => sameItems(hosts, b.get(ref)!)),
  )

/** How many hosts send to the internet by each element; those nobody sends by are not among them. */
export const servedBy = (survey: Survey): ReadonlyMap<string, number> =>
  derivedAndCompared(
    survey.model,
    'hosts on each way to the internet',
    () => {
      const hosts = new Map<string, number>()
      for (const index of survey.present()) {
        for (const [ref, own] of passedBy(survey, index))
          hosts.set(ref, (hosts.get(ref) ?? 0) + new Set(own).size)
      }
      return hosts
    },
    (a, b) => a.size === b.size && [...a].every(([ref, count]) => b.get(ref) === count),
  )

function capacity(survey: Survey, nat: NatModel): Finding[] {
  const { model } = survey
  const served = derivedAndCompared(
    model,
    `hosts of ${nat.ref}`,
    () => servedBy(survey).get(nat.ref) ?? 0,
    Object.is,
  )
  const perHost = nat.source.portsPerHost ?? 1024
  const offered =
    nat.addresses.filter((address) => !nat.draining.has(address)).length * PORTS_PER_ADDRESS
  if (served * perHost <= offered || offered === 0) return []
  return [
    finding({
      code: 'odd-nat-capacity',
      severity: 'medium',
      anchor: nat.ref,
      sentence: `${nat.id} serves ${served} hosts with ${perHost} ports each: ${served * perHost}, more than the ${offered} its addresses offer.`,
      facts: [`${served} hosts`, `${perHost} ports for each`, `${offered} ports offered`],
      mend: sharePorts(nat, served, offered),
    }),
  ]
}

/** Networks that are connected and have ranges in common: only one of the two is reached. */
export const checkOverlaps = checkWhole(({ model }) => {
  const pairs = new Map<string, { a: number; b: number; by: string }>()
  const connect = (a: number, b: number, by: string): void => {
    if (a < 0 || b < 0 || a === b) return
    const [low, high] = a < b ? [a, b] : [b, a]
    if (!pairs.has(`${low} ${high}`)) pairs.set(`${low} ${high}`, { a: low, b: high, by })
  }
  for (const peering of model.peerings)
    if (peering.up) connect(peering.a.network, peering.b.network, peering.ref)
  for (const transit of model.transits) {
    if (!transit.up) continue
    const networks = [...transit.attachmentOf.keys()]
    const spans = networks
      .flatMap((index) => model.networks[index]?.ranges.map((range) => ({ index, range })) ?? [])
      .sort((x, y) => (x.range.address < y.range.address ? -1 : 1))
    for (let i = 0; i < spans.length; i++)
      for (
        let k = i + 1;
        k < spans.length && prefixesOverlap(spans[i]!.range, spans[k]!.range);
        k++
      )
        connect(spans[i]!.index, spans[k]!.index, transit.ref)
  }
  return [...pairs.values()].flatMap(({ a, b, by }) => {
    const [one, other] = [model.networks[a]!, model.networks[b]!]
    const both = one.ranges.flatMap((range) =>
      other.ranges
        .filter((r) => typeof r.address === typeof range.address && prefixesOverlap(range, r))
        .map((r) => (r.length > range.length ? r : range)),
    )
    if (both.length === 0) return []
    return [
      finding({
        code: 'hole-overlap',
        severity: 'high',
        anchor: one.ref,
        objects: [one.ref, other.ref, by],
        sentence: `${one.id} and ${other.id} are connected by ${nameOf(by)} and both have ${listText(both.map(formatPrefix))}: each reaches its own there, and never the other’s.`,
        part: other.ref,
        ranges: both.map(formatPrefix),
      }),
    ]
  })
})

/** Partners with an allowlist: which addresses of ours they see. */
export const checkPartners = check(
  ({ model }) => idsOf(model, 'parties'),
  (survey, id) => {
    const { model } = survey
    const party = model.estate.parties.get(id)!
    if ((party.allowlist ?? []).length === 0 || (party.ranges ?? []).length === 0) return []
    const allowed = rangeSetOf((party.allowlist ?? []).map(prefixOf))
    const ref = `parties/${id}`
    const out: Finding[] = []
    const missing = new Map<string, Set<string>>()
    const changing = new Map<string, Set<string>>()
    const note = (map: Map<string, Set<string>>, key: string, objects: readonly string[]): void => {
      let set = map.get(key)
      if (!set) map.set(key, (set = new Set()))
      for (const object of objects) set.add(object)
    }
    for (const index of survey.present()) {
      for (const { by, seenAs } of seenBy(survey, id, index)) {
        const subnet = model.subnets[index]!
        const automatic = by.filter(
          (one) =>
            one.startsWith('nats/') &&
            model.estate.nats.get(nameOf(one))?.allocation === 'automatic',
        )
        for (const seen of seenAs) {
          if (seen === 'unpredictable')
            note(changing, 'an address that nobody can foresee', [...by, subnet.ref])
          else {
            const address = prefixOf(`${seen}/${seen.includes(':') ? 128 : 32}`).address
            if (automatic.length > 0) note(changing, seen, [...automatic, subnet.ref])
            else if (isEphemeral(model, address, by)) note(changing, seen, [...by, subnet.ref])
            if (!rangesContain(allowed, address)) note(missing, seen, [...by, subnet.ref])
          }
        }
      }
    }
    if (missing.size > 0) {
      const seen = [...missing.keys()]
      const prefix = (text: string): string => `${text}/${text.includes(':') ? 128 : 32}`
      out.push(
        finding({
          code: 'odd-not-allowlisted',
          severity: 'medium',
          anchor: ref,
          objects: [...[...missing.values()].flatMap((objects) => [...objects]), ref],
          sentence: `${id} sees us come from ${listText(seen)}, which its allowlist lacks.`,
          ranges: seen,
          mend: {
            what: `ask ${id} to add ${listText(seen)}, and note it here`,
            changes: seen.map((text) => ({
              op: 'add',
              path: pointer('parties', id, 'allowlist', '-'),
              value: prefix(text),
            })),
          },
        }),
      )
    }
    for (const [seen, objects] of changing)
      out.push(
        finding({
          code: 'odd-changing-address',
          severity: 'medium',
          anchor: ref,
          objects: [...objects, ref],
          sentence: `${id} allows us by address, but sees ${seen} from ${listText([...objects].filter((o) => o.startsWith('subnets/')).map(nameOf))}, which may change by itself.`,
          part: seen,
          ranges: seen.includes(' ') ? [] : [seen],
          mend: keepAddress(model, seen, [...objects]),
        }),
      )
    return out
  },
)

interface Seen {
  readonly by: readonly string[]
  readonly seenAs: readonly string[]
}

/** As whom a party sees the hosts of a subnet, and what they pass on the way. */
const seenBy = (survey: Survey, party: string, index: number): readonly Seen[] =>
  derivedAndCompared(
    survey.model,
    `seen by ${party} ${index}`,
    () => {
      const { model } = survey
      const subnet = model.subnets[index]!
      const ranges = rangesOf(model, 'parties', party)
      return survey.tablesOf(subnet).flatMap((table) => {
        if (!table.kind.interfaces.some((one) => survey.rulesAllow(one, ranges))) return []
        return survey.meet(subnet, table, 4, ranges).flatMap(({ outcome }) =>
          outcome.cause === null
            ? [
                {
                  by: [...new Set(outcome.ways.flat())].filter((one) => one.includes('/')),
                  seenAs: outcome.seenAs,
                },
              ]
            : [],
        )
      })
    },
    (a, b) =>
      a.length === b.length &&
      a.every((one, at) => sameItems(one.by, b[at]!.by) && sameItems(one.seenAs, b[at]!.seenAs)),
  )

/** A host's own public address that is not reserved goes with the host. */
function isEphemeral(model: Model, address: Address, by: readonly string[]): boolean {
  if (by.some((one) => /^(nats|firewalls)\//.test(one))) return false
  return (
    model.publicOwners.get(address)?.kind === 'interface' &&
    model.estate.publicAddresses.get(formatAddress(address))?.reserved === false
  )
}
