import { intersectRanges, subtractRanges, rangeSet, type RangeSet } from '../address/ranges'
import type { Pair } from '../consequences/ends'
import { placesOf, sizeOf } from '../consequences/json'
import type { NamedRanges, Row } from '../consequences/rows'
import { rowText } from '../consequences/words'
import { placeOfProtocol } from '../packet/protocols'
import { protocolNumber } from '../packet/packet'
import type { Model } from '../model/model'
import type { Change } from '../changes/operation'
import { kindOfEnd, subnetOfEnd, type Purpose } from './purpose'

/** Something a change does that what it is for does not ask for, as a clause: `cuts …`. */
export interface Harm {
  readonly kind: 'cut' | 'passedBy' | 'opened' | 'elsewhere' | 'finding' | 'expectation'
  readonly text: string
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
  change: Change,
  rows: readonly Row[],
): Harm[] {
  return rows.flatMap((row): Harm[] => {
    if (row.kind === 'inspected') return []
    if (row.kind === 'cut' && mayCut(pair, purpose, row)) return []
    if (row.kind === 'opened' && mayOpen(pair, purpose, change, row)) return []
    return [{ kind: row.kind, text: `${VERBS[row.kind]} ${rowText(pair, row)}` }]
  })
}

function mayCut(pair: Pair, purpose: Purpose, row: Row): boolean {
  const lost = row.trial?.lost
  if (purpose.kind === 'inspects')
    return lost?.code === 'denied-policy' && purpose.firewalls.has(lost.object)
  return purpose.kind === 'closes' && isOfEvidence(pair.before, purpose, row)
}

/** Whether all packets of a row are between what a finding names and what its evidence covers. */
function isOfEvidence(model: Model, { ends }: Purpose, { from, to }: Row): boolean {
  const isNamed = (name: string): boolean => {
    const subnet = subnetOfEnd(model, name)
    return subnet !== null && (ends.named.has(subnet) || ends.near.has(subnet))
  }
  const isFar = (name: string, ranges: RangeSet): boolean =>
    ends.far.has(kindOfEnd(model, name)) ||
    (ends.ranges.length > 0 && subtractRanges(rangeSet(ranges), ends.ranges).length === 0)
  return (
    (everyEnd(from, isNamed) && everyEnd(to, (name, own) => isNamed(name) || isFar(name, own))) ||
    (everyEnd(to, isNamed) && everyEnd(from, (name, own) => isNamed(name) || isFar(name, own)))
  )
}

function mayOpen(pair: Pair, purpose: Purpose, change: Change, row: Row): boolean {
  if (purpose.kind === 'inspects') {
    const { there, back } = row.trial?.after ?? { there: [], back: [] }
    const meets = [...purpose.firewalls].some((ref) => there.includes(ref) && back.includes(ref))
    return meets || isOfKind(pair.after, purpose, row)
  }
  if (purpose.kind !== 'leads') return false
  return isOfKind(pair.after, purpose, row) && (!opensRules(change) || isOfTraffic(purpose, row))
}

/** Whether a row is between the question's subnets and destinations of the same kind. */
function isOfKind(model: Model, { ends }: Purpose, { from, to }: Row): boolean {
  const isNear = (name: string): boolean => {
    const subnet = subnetOfEnd(model, name)
    return subnet !== null && ends.near.has(subnet)
  }
  const isFar = (name: string, ranges: RangeSet): boolean => {
    const kind = kindOfEnd(model, name)
    if (ends.far.has(kind) || (kind.startsWith('services/') && ends.far.has('internet')))
      return true
    return intersectRanges(rangeSet(ranges), ends.ranges).length > 0
  }
  return (
    (everyEnd(from, isNear) && everyEnd(to, (name, own) => isNear(name) || isFar(name, own))) ||
    (everyEnd(to, isNear) && everyEnd(from, (name, own) => isNear(name) || isFar(name, own)))
  )
}

/** Whether a row is the kind of traffic a question asks for: its protocol, towards its port. */
function isOfTraffic({ question }: Purpose, row: Row): boolean {
  const protocol = protocolNumber(question?.protocol ?? 'tcp')
  if (protocol === null) return false
  const [place, ...more] = placesOf(row.protocols)
  if (more.length > 0 || place !== placeOfProtocol(protocol)) return false
  const port = question?.port
  return port == null || (sizeOf(row.dstPorts) === 1 && row.dstPorts[0]!.from === port)
}

/** Whether a change opens rules: what it opens then has to be the kind of traffic asked for. */
const opensRules = (change: Change): boolean =>
  change.some(
    ({ op, path }) =>
      op !== 'remove' &&
      (/^\/(ruleSets|estateRules)\//.test(path) || /^\/firewalls\/[^/]+\/policy/.test(path)),
  )

const everyEnd = (ends: NamedRanges, is: (name: string, ranges: RangeSet) => boolean): boolean =>
  [...ends].every(([names, own]) => names.split(' ').every((name) => is(name, own)))
