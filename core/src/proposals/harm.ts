import { PUBLIC_SPACE } from '../address/public'
import { parseAddress } from '../address/address'
import { hostPrefix, prefixOf } from '../address/prefix'
import {
  intersectRanges,
  rangeSetOf,
  subtractRanges,
  rangeSet,
  type RangeSet,
} from '../address/ranges'
import type { Pair } from '../consequences/ends'
import { placesOf, sizeOf } from '../consequences/json'
import type { NamedRanges, Row } from '../consequences/rows'
import { questionOf } from '../consequences/told'
import { rowText } from '../consequences/words'
import type { Question } from '../trace/question'
import { placeOfProtocol } from '../packet/protocols'
import { protocolNumber } from '../packet/packet'
import type { ToldFinding } from '../findings/finding'
import type { Mend } from '../mend/mend'
import { FIRST_EPHEMERAL } from '../mend/recipes/rules'
import type { Model } from '../model/model'
import { nobodysSpace } from '../walk/public-address'
import type { Change } from '../changes/operation'
import { kindOfEnd, subnetOfEnd, type Purpose } from './purpose'

/** Something a change does that what it is for does not ask for, as a clause: `cuts …`. */
export interface Harm {
  readonly kind: 'cut' | 'passedBy' | 'opened' | 'elsewhere' | 'finding' | 'expectation' | 'untried'
  readonly text: string
  /** A question that shows what is lost by it, where that can be asked. */
  readonly question: Question | null
  /** The packets that are harmed, or the finding that comes. */
  readonly row?: Row
  readonly finding?: ToldFinding
}

const VERBS = {
  cut: 'cuts',
  opened: 'opens',
  elsewhere: 'leads elsewhere',
  passedBy: 'no longer inspected:',
} as const

/** What of the packets a change alters is harm, judged by what the change is for. */
export function harmOfPackets(
  pair: Pair,
  purpose: Purpose,
  { changes, blanks = [], asNeighbours = [], closing = [] }: Mend,
  rows: readonly Row[],
): Harm[] {
  const meant = rangeSetOf(asNeighbours.map(prefixOf))
  const opening = changes.filter(({ path }) => !closing.includes(path))
  // A stand-in is an address of the internet until it is chosen.
  const standIns = rangeSetOf(
    blanks.flatMap(({ standIn }) => {
      const address = parseAddress(standIn)
      return address === null ? [] : [hostPrefix(address)]
    }),
  )
  const isOfStandIn = ({ to }: Row): boolean =>
    [...to.values()].every((own) => subtractRanges(rangeSet(own), standIns).length === 0)
  return rows.flatMap((row): Harm[] => {
    if (row.kind === 'inspected') return []
    if ((row.kind === 'cut' || row.kind === 'elsewhere') && isOfStandIn(row)) return []
    if (row.kind === 'cut' && mayCut(pair, purpose, row)) return []
    if (row.kind === 'opened' && isGivenBack(pair, row)) return []
    if (row.kind === 'opened' && mayOpen(pair, purpose, { changes: opening, meant }, row)) return []
    const text = `${VERBS[row.kind]} ${rowText(pair, row)}`
    return [{ kind: row.kind, text, question: row.kind === 'cut' ? questionOf(row) : null, row }]
  })
}

/** Whether all that is opened is addresses of the estate that the internet has after the change. */
function isGivenBack({ before, after }: Pair, { to }: Row): boolean {
  const kept = intersectRanges(nobodysSpace(after), nobodysSpace(before))
  return [...to].every(
    ([name, ranges]) => name === 'internet' && intersectRanges(rangeSet(ranges), kept).length === 0,
  )
}

const isAllPublic = (ranges: RangeSet): boolean =>
  subtractRanges(rangeSet(ranges), PUBLIC_SPACE).length === 0

function mayCut(pair: Pair, purpose: Purpose, row: Row): boolean {
  const lost = row.trial?.lost
  if (purpose.kind === 'inspects')
    return lost?.code === 'denied-policy' && purpose.firewalls.has(lost.object)
  return purpose.kind === 'closes' && isOfEvidence(pair.before, purpose, row)
}

/**
 * Whether all packets of a row are those a finding speaks of: from where its question begins to
 * where it ends. What leaves directly may also come in.
 */
function isOfEvidence(model: Model, { ends, finding }: Purpose, { from, to }: Row): boolean {
  const isAt =
    (side: ReadonlySet<string>) =>
    (name: string, ranges: RangeSet): boolean =>
      side.has(kindOfEnd(model, name)) ||
      side.has(`subnets/${subnetOfEnd(model, name) ?? ''}`) ||
      (side.has('internet') && isAllPublic(ranges)) ||
      (ends.ranges.length > 0 && subtractRanges(rangeSet(ranges), ends.ranges).length === 0)
  // Whoever asks for a public address comes by the internet, from wherever.
  const byInternet = ends.begins.has('internet') && [...to.values()].every(isAllPublic)
  const there = (byInternet || everyEnd(from, isAt(ends.begins))) && everyEnd(to, isAt(ends.ends))
  const back = everyEnd(to, isAt(ends.begins)) && everyEnd(from, isAt(ends.ends))
  return there || (finding?.code === 'leak-direct' && back)
}

interface Opening {
  readonly changes: Change
  /** Destinations that are meant as a whole. */
  readonly meant: RangeSet
}

function mayOpen(pair: Pair, purpose: Purpose, { changes, meant }: Opening, row: Row): boolean {
  if (purpose.kind === 'inspects') {
    const { there, back } = row.trial?.after ?? { there: [], back: [] }
    const meets = [...purpose.firewalls].some((ref) => there.includes(ref) && back.includes(ref))
    return meets || isOfKind(pair.after, purpose, meant, row)
  }
  if (purpose.kind !== 'leads') return false
  const isKind = isOfKind(pair.after, purpose, meant, row)
  if (!isKind || !opensRules(changes)) return isKind
  return isOfTraffic(purpose, row) || (opensEphemeral(changes) && isEphemeral(row))
}

/**
 * Between two ephemeral ports: a list without state that lets answers pass lets these pass too,
 * since they look like answers.
 */
const isEphemeral = ({ srcPorts, dstPorts }: Row): boolean =>
  [srcPorts, dstPorts].every((set) => set.every(({ from }) => from >= FIRST_EPHEMERAL))

/** Whether a change adds a rule for answers to all ephemeral ports. */
const opensEphemeral = (change: Change): boolean =>
  change.some(
    (one) =>
      one.op === 'add' && JSON.stringify(one.value ?? null).includes(`"${FIRST_EPHEMERAL}-65535"`),
  )

/** Whether a row is between the question's subnets and destinations of the same kind. */
function isOfKind(model: Model, { ends }: Purpose, meant: RangeSet, { from, to }: Row): boolean {
  // An endpoint is named after its service, and stands in a subnet all the same.
  const near = rangeSetOf(
    [...ends.near].flatMap(
      (id) => model.subnets[model.index.subnets.get(id) ?? -1]?.allRanges ?? [],
    ),
  )
  const isNear = (name: string, ranges: RangeSet): boolean => {
    const subnet = subnetOfEnd(model, name)
    if (subnet !== null) return ends.near.has(subnet)
    return name.startsWith('service:') && subtractRanges(rangeSet(ranges), near).length === 0
  }
  const isFar = (name: string, ranges: RangeSet): boolean => {
    const kind = kindOfEnd(model, name)
    // What has a public address is reached as all of the internet is.
    if (ends.far.has(kind) || (ends.far.has('internet') && isAllPublic(ranges))) return true
    const own = rangeSet(ranges)
    return intersectRanges(own, ends.ranges).length > 0 || subtractRanges(own, meant).length === 0
  }
  const isNearOrFar = (name: string, own: RangeSet): boolean =>
    isNear(name, own) || isFar(name, own)
  if (everyEnd(to, (name) => handsOnBetween(model, ends, name))) return true
  // Whoever asks for a public address comes by the internet, from wherever.
  const isAsked = ends.begins.has('internet') && [...to.values()].every(isAllPublic)
  if (isAsked && everyEnd(to, isNear)) return true
  return (
    (everyEnd(from, isNear) && everyEnd(to, isNearOrFar)) ||
    (everyEnd(to, isNear) && everyEnd(from, isNearOrFar))
  )
}

/**
 * Whether an end is a frontend that stands on one side of a question and hands on to the other:
 * whoever its clients are, what a change opens is the way between the two.
 */
function handsOnBetween(model: Model, { near, far }: Purpose['ends'], name: string): boolean {
  const id = name.startsWith('frontend:') ? name.slice('frontend:'.length) : ''
  const front = model.frontends[model.index.frontends.get(id) ?? -1]
  if (!front) return false
  const targets = front.listeners
    .flatMap((one) => one.targets)
    .flatMap((index) => model.subnets[model.interfaces[index]?.subnet ?? -1] ?? [])
  const isNear = (subnet: number): boolean => near.has(model.subnets[subnet]?.id ?? '')
  const isFar = (network: number): boolean => far.has(model.networks[network]?.ref ?? '')
  return (
    (isFar(front.network) && targets.some(({ index }) => isNear(index))) ||
    (isNear(front.subnet) && targets.some(({ network }) => isFar(network)))
  )
}

/** Whether a row is the kind of traffic a question asks for: its protocol, towards its port. */
function isOfTraffic({ question, finding }: Purpose, row: Row): boolean {
  const protocol = protocolNumber(question?.protocol ?? 'tcp')
  if (protocol === null) return false
  const [place, ...more] = placesOf(row.protocols)
  if (more.length > 0 || place !== placeOfProtocol(protocol)) return false
  // Answers to all that a list lets out are what this finding is about.
  const port = finding?.code === 'hole-ephemeral' ? null : question?.port
  if (port == null) return true
  const isPort = (set: RangeSet): boolean => sizeOf(set) === 1 && set[0]!.from === port
  // A rule without state that lets answers pass lets through what looks like them.
  return isPort(row.dstPorts) || isPort(row.srcPorts)
}

/** Whether a change opens rules: what it opens then has to be the kind of traffic asked for. */
const opensRules = (change: Change): boolean =>
  change.some(
    (one) =>
      one.op !== 'remove' &&
      !isDenial('value' in one ? one.value : null) &&
      (/^\/(ruleSets|estateRules)\//.test(one.path) ||
        /^\/firewalls\/[^/]+\/policy/.test(one.path)),
  )

const isDenial = (value: unknown): boolean =>
  typeof value === 'object' && value !== null && 'action' in value && value.action === 'deny'

const everyEnd = (ends: NamedRanges, is: (name: string, ranges: RangeSet) => boolean): boolean =>
  [...ends].every(([names, own]) => names.split(' ').every((name) => is(name, own)))
