/**
 * Which packets a change can reach: for every sender the destinations that need to be walked in
 * both states. Everything beside them fares as before, because on its way there and back it meets
 * nothing that is touched and is led by the same effective next hops.
 *
 * A range of a subnet's destinations is reached where its effective next hop differs, or where its
 * way passes an element that is touched, before or after. It is reached for packets the subnet
 * sends, and for packets it answers: those that come from the range. Destinations that are lost by
 * routes alone in both states are left out, since nothing that works can become of them.
 */
import { hostPrefix } from '../address/prefix'
import {
  intersectRanges,
  partsWithin,
  rangeOf,
  rangesContain,
  rangeSet,
  rangeSetOf,
  rangeText,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { waysOfPair, type PairWays, type SortOfWays } from '../compare/ways'
import { outcomeTo } from '../hops/ways'
import { addressesOf } from '../ways-in/ways-in'
import { destinationsAskedBy, pairSenders, type Pair, type PairedSender } from './ends'
import { allCandidates, type Candidate } from './packets'
import { withAlikeAsOne } from './alike-senders'
import { publishedBy, translatorAddresses } from './published'
import {
  EVERYWHERE,
  rangesOfSort,
  reachedBySubnet,
  reachedKinds,
  type PairedKind,
} from './reached-kinds'
import { touchedAddresses, touchedBy, type Touched } from './touched'

/**
 * The candidates of a change. Costs the ways of the subnets whose routing may differ, or leads to
 * what is touched; of all subnets where their routing is not known. What a sender is to be asked
 * for is found when it is asked, since all senders together may want too much to hold.
 */
export function candidatesOf(
  pair: Pair,
  ways: PairWays = waysOfPair(pair.before, pair.after),
): readonly Candidate[] {
  const touched = touchedBy(pair)
  if (touched.everything) return allCandidates(pair)
  const kinds = reachedKinds(pair, touched, ways)
  touchPublished(pair, touched, kinds)
  const alone = pairSenders(pair)
  const kindOf = new Map(kinds.flatMap((kind) => kind.hosts.map((id) => [id, kind] as const)))
  const senders = withAlikeAsOne(pair, touched, kindOf, alone)
  const context: Reach = { pair, touched, kinds, kindOf, ways }
  const sites = reachedOfSites(context, senders)
  const asks = destinationsAskedBy(pair)
  const always = rangeSet([...touchedAddresses(touched), ...sites.answered])
  const answersTo = answersAsked(context)
  const rules = ruledHosts(context)
  const lost = lostByRoutes(context)
  return senders.map((sender): Candidate => {
    const destinations = (): RangeSet => {
      const sent = sentBy(context, sites, sender)
      const wanted = [...always, ...sent, ...answersTo(sender), ...rules(sender)]
      return lost(sender, intersectRanges(rangeSet(wanted), asks(sender)))
    }
    return { sender, destinations }
  })
}

/** What is known of a change while senders are asked one by one. */
interface Reach {
  readonly pair: Pair
  readonly touched: Touched
  readonly kinds: readonly PairedKind[]
  readonly kindOf: ReadonlyMap<string, PairedKind>
  readonly ways: PairWays
}

/**
 * What frontends and translating firewalls publish is a destination whose way goes on from where
 * they stand: reached where the way from there to what they lead to is, or the answer back.
 */
function touchPublished(pair: Pair, touched: Touched, kinds: readonly PairedKind[]): void {
  const bySubnet = reachedBySubnet(kinds)
  for (const model of [pair.before, pair.after])
    for (const { subnets, targets, addresses } of publishedBy(model)) {
      const from = subnets.flatMap((id) => bySubnet.get(id) ?? [])
      const isReached = targets.some((index) => {
        const one = model.interfaces[index]!
        const back = bySubnet.get(model.subnets[one.subnet]?.id ?? '') ?? []
        return (
          touched.hosts.has(one.id) ||
          (touched.rules.get(one.id)?.askedBy.length ?? 0) > 0 ||
          one.addresses.some((address) => rangesContain(rangeSet(from), address)) ||
          addresses.some(({ from: own }) => rangesContain(back, own))
        )
      })
      if (isReached) touched.addresses.push(...addresses)
    }
}

/** What sites are reached by, and the addresses of those whose answers may be. */
interface ReachedSites {
  readonly beyond: readonly Range[]
  readonly answered: readonly Range[]
}

const isWhole = ({ sites }: Touched, { name }: PairedSender): boolean =>
  name.startsWith('site:') && sites.has(name.slice('site:'.length))

/**
 * What sites send and answer: all of a site that is touched; of others, what comes into a network
 * by a transit and goes on from a subnet it is attached to.
 */
function reachedOfSites(
  { pair, touched, kinds }: Reach,
  senders: readonly PairedSender[],
): ReachedSites {
  const bySubnet = reachedBySubnet(kinds)
  const attached = [pair.before, pair.after].flatMap((model) =>
    model.transits.flatMap(({ source }) =>
      Object.values(source.attachments ?? {}).flatMap(({ subnets }) => subnets ?? []),
    ),
  )
  const beyond = [...new Set(attached)].flatMap((id) => bySubnet.get(id) ?? [])
  const answered = senders
    .filter((one) => one.name.startsWith('site:') && (isWhole(touched, one) || beyond.length > 0))
    .flatMap(allAddresses)
  return { beyond, answered }
}

/** What a sender may send otherwise, beside what concerns all senders. */
function sentBy(
  { touched, kindOf }: Reach,
  { beyond }: ReachedSites,
  sender: PairedSender,
): readonly Range[] {
  const id = hostOf(sender)
  const isNew = sender.before === null || sender.after === null
  if (isNew || isWhole(touched, sender) || (id !== null && touched.hosts.has(id))) return EVERYWHERE
  if (sender.name.startsWith('site:')) return beyond
  if (id === null) return []
  return [...(touched.rules.get(id)?.asks ?? []), ...(kindOf.get(id)?.reached ?? [])]
}

/**
 * Hosts whose rules decide otherwise about what a sender asks of them. Where a translator may stand
 * on the way, the sender comes to them as another, so it is asked in any case. Costs, for each
 * sender that is asked, a step for each distinct reach.
 */
function ruledHosts({ pair, touched, kindOf, ways }: Reach): (sender: PairedSender) => Range[] {
  const byReach = new Map<string, { askedBy: RangeSet; hosts: Range[] }>()
  for (const [id, { askedBy }] of touched.rules) {
    if (askedBy.length === 0) continue
    const key = askedBy.map(rangeText).join()
    const known = byReach.get(key)
    const own = asAsked(pair, id).map(hostPrefix).map(rangeOf)
    if (known) known.hosts.push(...own)
    else byReach.set(key, { askedBy, hosts: own })
  }
  const groups = [...byReach.values()].map(({ askedBy, hosts }) => ({
    askedBy,
    hosts: rangeSet(hosts),
  }))
  const translated = rangesOfSort(ways, TRANSLATED)
  return (sender) => {
    if (groups.length === 0) return []
    const id = hostOf(sender)
    const kind = id === null ? undefined : kindOf.get(id)
    const isPlain = kind ? hasOneAddress(sender) : id === null && !sender.name.startsWith('site:')
    if (!isPlain) return groups.flatMap(({ hosts }) => hosts)
    const from = rangeSet(allAddresses(sender))
    return groups.flatMap(({ askedBy, hosts }): readonly Range[] => {
      if (intersectRanges(from, askedBy).length > 0) return hosts
      return kind ? translated(kind).flatMap((range) => partsWithin(hosts, range)) : []
    })
  }
}

/** Ways on which the sender may come to be seen as another. */
const TRANSLATED: SortOfWays = {
  passes: (way) => way.some((ref) => /^(nats|firewalls|gateways|frontends)\//.test(ref)),
  ends: ({ seenAs, ways }) => seenAs.length > 0 || ways.length > 1,
}

/** The id of the interface a sender is; null for one outside. */
const hostOf = ({ name }: PairedSender): string | null =>
  name.startsWith('interface:') ? name.slice('interface:'.length) : null

const allAddresses = ({ both, onlyBefore, onlyAfter }: PairedSender): readonly Range[] => [
  ...both,
  ...onlyBefore,
  ...onlyAfter,
]

/**
 * Packets whose answers are reached: from a reached range to the hosts that answer there. Costs,
 * for each sender that is asked, a step for each kind of host that is reached.
 */
function answersAsked(reach: Reach): (sender: PairedSender) => Range[] {
  const { pair } = reach
  const translators = rangeSet([
    ...translatorAddresses(pair.before),
    ...translatorAddresses(pair.after),
  ])
  const answering = reach.kinds
    .filter(({ hosts, reached }) => hosts.length > 0 && reached.length > 0)
    .map(({ hosts, reached }) => ({
      reached,
      own: rangeSetOf(hosts.flatMap((id) => asAsked(pair, id)).map(hostPrefix)),
      translated: intersectRanges(reached, translators).length > 0,
    }))
  return (sender) => {
    const from = rangeSet(allAddresses(sender))
    return answering.flatMap(({ reached, own, translated }) =>
      intersectRanges(from, reached).length > 0 || (translated && isTranslated(reach, sender, own))
        ? own
        : [],
    )
  }
}

/** Every address by which a host may be asked, in either state. */
function asAsked({ before, after }: Pair, id: string) {
  return [before, after].flatMap((model) => {
    const index = model.index.interfaces.get(id)
    return index === undefined ? [] : addressesOf(model, index)
  })
}

/** Whether a sender's packets to some addresses may be translated on the way. */
function isTranslated({ kindOf }: Reach, sender: PairedSender, to: RangeSet): boolean {
  const id = hostOf(sender)
  if (id === null) return false
  const kind = kindOf.get(id)
  if (!kind) return true
  return (['before', 'after'] as const).some((side) =>
    to.some(({ from }) => {
      const there = outcomeTo(kind.ways[side], from)
      return there !== null && (there.seenAs.length > 0 || there.ways.length > 1)
    }),
  )
}

/** Ways that are not lost: of several branches, some may work though one is lost. */
const ARRIVING: SortOfWays = {
  passes: () => false,
  ends: ({ cause, ways }) => cause === null || ways.length > 1,
}

/** Leaves out what a sender's packets to are lost for want of a route in both states. */
function lostByRoutes({
  kindOf,
  ways,
}: Reach): (sender: PairedSender, ranges: RangeSet) => RangeSet {
  const arriving = rangesOfSort(ways, ARRIVING)
  return (sender, ranges) => {
    const id = hostOf(sender)
    const kind = id === null ? undefined : kindOf.get(id)
    if (!kind || ranges.length === 0 || !hasOneAddress(sender)) return ranges
    return rangeSet(arriving(kind).flatMap((range) => partsWithin(ranges, range)))
  }
}

/** Next hops are those of a host's first address of a family; another may fare otherwise. */
const hasOneAddress = ({ both, onlyBefore, onlyAfter, members }: PairedSender): boolean =>
  members !== undefined ||
  (onlyBefore.length + onlyAfter.length === 0 &&
    both.every(({ from, to }) => from === to) &&
    both.filter(({ from }) => typeof from === 'number').length <= 1 &&
    both.filter(({ from }) => typeof from === 'bigint').length <= 1)
