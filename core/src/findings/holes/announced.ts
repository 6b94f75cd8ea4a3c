import { familyOf, formatAddress, type Address } from '../../address/address'
import { longestLength } from '../../address/prefix-table'
import type { RangeSet } from '../../address/ranges'
import { eachFlow, walkFlow, type Flow } from '../../flows/flow'
import type { Model, SubnetModel } from '../../model/model'
import { idsOf, presentOf, rangesOf } from '../../model/present'
import { allPackets, boxWith, packetOf, type PacketBox } from '../../packet/packet-set'
import { passing } from '../../rules/passing'
import type { CauseCode } from '../../walk/causes'
import { lowestInternetAddress } from '../../walk/public-address'
import type { End } from '../../walk/state'
import { finding, unique, type Finding } from '../finding'
import { attributeOf, missingIn } from '../root'
import {
  check,
  FAMILIES,
  listText,
  nameOf,
  questionOf,
  rangeTexts,
  type CheckContext,
} from '../survey'
import { answersTo } from './answers-outside'
import type { Side } from './ask-for-answers'

/**
 * Flows that sites begin: what no gateway announces to a site though rules let its packets in, what
 * is announced and does not come there, and answers that do not come back. Of each network one host
 * is asked whether it is reached; answers are asked for wherever routes lose them. Costs a look-up
 * for each kind of host and each site, and a walk for each that is asked.
 */
export const checkAnnounced = check(
  'answers',
  ({ model }) => presentOf(model, 'networks'),
  (survey, network) =>
    unique(
      idsOf(survey.model, 'sites').flatMap((site) => fromSite(survey, site, network)),
      true,
    ),
  { joinsRanges: true },
)

/**
 * What sites send to the internet where that is announced to them, by one packet of each family.
 * Where no route leads on from there, or none that takes it, that is taken as meant.
 */
export const checkSitesToInternet = check(
  'answers',
  ({ model }) => idsOf(model, 'sites'),
  ({ model }, site) =>
    FAMILIES.flatMap((family) => {
      const src = rangesOf(model, 'sites', site).find(({ from }) => familyOf(from) === family)
      const dst = lowestInternetAddress(model, family)
      if (src === undefined || !isAnnounced(model, site, dst)) return []
      const box = boxWith(allPackets(family), { src, dst: { from: dst, to: dst } })
      const flow = walkFlow(model, endOfSite(site), packetOf(box), box, false)
      const { cause } = flow.worst
      return cause === null || MEANT.has(cause.code) || cause.code.startsWith('denied-')
        ? []
        : [lostOnTheWay(model, site, null, flow)]
    }),
)

/** Losses that say that somebody does not lead there. */
const MEANT: ReadonlySet<CauseCode> = new Set([
  'no-route',
  'drop-route',
  'private-destination',
  'site-does-not-have-it',
])

const endOfSite = (site: string): End => ({ in: 'outside', ref: `sites/${site}` })

/** What is wrong with the flows of one site to one network. */
function fromSite(survey: CheckContext, site: string, network: number): Finding[] {
  const { model } = survey
  const unannounced: Asked[] = []
  const found: Finding[] = []
  let isReached = false
  for (const asked of hostsAskedBy(survey, site, network)) {
    if (!isAnnounced(model, site, asked.own)) {
      if (unannounced.length < MOST_TOLD && letIn(model, asked)) unannounced.push(asked)
      continue
    }
    if (isReached && !isAnswerLost(survey, asked)) continue
    const box = letIn(model, asked)
    if (!box) continue
    isReached = true
    found.push(...flowsFrom(model, site, asked, box))
  }
  if (unannounced.length > 0) found.push(notAnnounced(model, { site, network, unannounced }))
  return found
}

/** So many kinds of host are told of one site and network. */
const MOST_TOLD = 50

/** A kind of host that a site could ask for, by one address. */
interface Asked {
  readonly near: Side
  readonly own: Address
  /** The ranges of the site, of the same family. */
  readonly sources: RangeSet
}

function* hostsAskedBy(survey: CheckContext, site: string, network: number): Generator<Asked> {
  const { model } = survey
  const ranges = rangesOf(model, 'sites', site)
  const { up, subnets } = model.networks[network]!
  for (const index of up ? subnets : []) {
    const subnet = model.subnets[index]!
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        const own = table.kind.sources[family]
        const sources = ranges.filter(({ from }) => familyOf(from) === family)
        if (own === null || sources.length === 0 || table.kind.interfaces.length === 0) continue
        yield { near: { subnet, table }, own, sources }
      }
    }
  }
}

const isAnnounced = (model: Model, site: string, own: Address): boolean =>
  (model.entrances.get(site) ?? []).some(({ announces }) => longestLength(announces, own) >= 0)

/** The first packets of a site that the rules of a host let in; null where they let none. */
function letIn(model: Model, { near, own, sources }: Asked): PacketBox | null {
  const { place } = near.table.kind
  const all = sources.map((src) => ({
    ...allPackets(familyOf(own)),
    src,
    dst: { from: own, to: own },
  }))
  return passing(model, { direction: 'in', place, crosses: true }, all)[0] ?? null
}

/** Whether routes lose what a host sends to a site. */
const isAnswerLost = (survey: CheckContext, { near, own, sources }: Asked): boolean =>
  survey
    .meet(near.subnet, near.table, familyOf(own), sources)
    .some(({ outcome }) => outcome.cause !== null)

/** What is wrong with the flows of a site to a host that its rules let in. */
function flowsFrom(model: Model, site: string, { near }: Asked, box: PacketBox): Finding[] {
  const ref = `sites/${site}`
  const found: Finding[] = []
  eachFlow(model, endOfSite(site), [box], true, (flow) => {
    const { worst } = flow
    if (!worst.delivered && worst.cause && !worst.cause.code.startsWith('denied-'))
      found.push(lostOnTheWay(model, site, near.subnet, flow))
    found.push(...answersTo(model, () => ({ ref, says: site }), near, flow))
    return found.length > 0
  })
  return found
}

/** What a site sends to a subnet, or to the internet, and is lost on the way. */
function lostOnTheWay(model: Model, site: string, subnet: SubnetModel | null, flow: Flow): Finding {
  const cause = flow.worst.cause!
  const network = model.networks[subnet?.network ?? -1]
  return finding({
    code: 'hole-not-announced',
    severity: 'high',
    anchor: `sites/${site}`,
    objects: [`sites/${site}`, ...flow.worst.way, cause.object, subnet?.ref],
    sentence: `What ${site} sends to ${subnet?.id ?? 'the internet'} comes in by ${listText(flow.worst.way.slice(0, 1).map(nameOf))} and is lost there: ${cause.code} at ${nameOf(cause.object)}.`,
    part: `${cause.code} ${cause.object}${subnet ? '' : ' internet'}`,
    root:
      cause.code === 'no-route' && network
        ? { kind: 'missing-route', object: cause.object, part: network.ref }
        : attributeOf(flow.worst.way[0] ?? `sites/${site}`, 'announces'),
    ranges: [formatAddress(flow.packet.dst)],
    question: questionOf(flow.packet),
  })
}

interface Unannounced {
  readonly site: string
  readonly network: number
  readonly unannounced: readonly Asked[]
}

function notAnnounced(model: Model, { site, network, unannounced: asked }: Unannounced): Finding {
  const ref = `sites/${site}`
  const gateways = (model.entrances.get(site) ?? []).map((one) => model.gateways[one.gateway]!.ref)
  const subnets = asked.map(({ near }) => near.subnet)
  const names = [...new Set(subnets.map(({ id }) => id))]
  const [first] = asked
  const lines = [...new Set(gateways)].map(nameOf)
  const by =
    gateways.length === 0
      ? `No gateway that is up announces anything to ${site}`
      : `${listText(lines)} ${lines.length === 1 ? 'does' : 'do'} not announce them to ${site}`
  return finding({
    code: 'hole-not-announced',
    severity: 'high',
    anchor: ref,
    objects: [ref, ...gateways, ...subnets.map((one) => one.ref)],
    part: model.networks[network]!.ref,
    sentence: `The rules of ${listText(names)} let packets from ${site} in, and none come: ${by[0]!.toLowerCase()}${by.slice(1)}.`,
    root: gateways.length === 0 ? missingIn(ref, 'gateways') : missingIn(gateways[0]!, 'announces'),
    ranges: rangeTexts(
      asked.map(({ own }) => ({ from: own, to: own })),
      20,
    ),
    question: questionOf(packetOf(letIn(model, first!)!)),
  })
}
