import { parseAddress, type Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import { SEVERITIES, type Finding, type FindingCode, type Severity } from '../findings/finding'
import { FINDINGS } from '../findings/records'
import { splitRef } from '../format/ref'
import type { Model } from '../model/model'
import type { Question } from '../trace/question'
import { isRefusal } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import { outsideRef } from '../walk/steps/outside'

/**
 * What a proposal is for, which decides what it may do (design part 9.3):
 * - `closes`: a leak, an open port, a segment. It may cut the finding's packets, nothing else;
 * - `inspects`: a firewall that is passed by or met one way. It may cut what that firewall's policy
 *   denies, and open what then meets it both ways;
 * - `leads`: a blackhole, a faulty question, a service that is reached over the internet. It cuts
 *   nothing, and may open the same kind of traffic between the question's subnets and destinations
 *   of the same kind;
 * - `tidies`: a weak spot. It opens and cuts nothing.
 */
export type PurposeKind = 'closes' | 'inspects' | 'leads' | 'tidies'

export interface Purpose {
  readonly kind: PurposeKind
  /** The finding it mends; null for a question alone. */
  readonly finding: Finding | null
  readonly question: Question | null
  /** A finding of this severity or a higher one that comes is harm. */
  readonly severity: Severity
  /** The firewalls the finding speaks of, as `firewalls/ID`. */
  readonly firewalls: ReadonlySet<string>
  readonly ends: PurposeEnds
}

/** The two sides of what a proposal is for. */
export interface PurposeEnds {
  /** Subnets of the near side, by id: those of the question, and all that share their table. */
  readonly near: ReadonlySet<string>
  /** Kinds of ends of the far side, as `kindOfEnd` names them. */
  readonly far: ReadonlySet<string>
  /** Where the question begins, and where it is meant to end: subnets as `subnets/ID`, or kinds. */
  readonly begins: ReadonlySet<string>
  readonly ends: ReadonlySet<string>
  /** The addresses the finding's evidence names. */
  readonly ranges: RangeSet
  /** Subnets of everything the finding names. */
  readonly named: ReadonlySet<string>
}

const ABOUT_FIREWALLS: ReadonlySet<FindingCode> = new Set([
  'leak-round-firewall',
  'leak-one-way-inspected',
  'in-round-firewall',
  'hole-no-state',
])

/** What a mend of a finding is for. */
export function purposeOfFinding(model: Model, finding: Finding): Purpose {
  const { code, severity, evidence } = finding
  const { family } = FINDINGS[code]
  const kind: PurposeKind = ABOUT_FIREWALLS.has(code)
    ? 'inspects'
    : family === 'leak' && code !== 'leak-service-by-internet'
      ? 'closes'
      : family === 'hole' || family === 'leak'
        ? 'leads'
        : 'tidies'
  return {
    kind,
    finding,
    question: evidence.question,
    severity,
    firewalls: firewallsOf(model, finding),
    ends: endsOf(model, evidence.question, finding),
  }
}

/** What a mend of a faulty question is for. */
export const purposeOfQuestion = (model: Model, question: Question): Purpose => ({
  kind: 'leads',
  finding: null,
  question,
  severity: 'high',
  firewalls: new Set(),
  ends: endsOf(model, question, null),
})

/** Whether a severity is as high as another, or higher. */
export const isAsGrave = (one: Severity, as: Severity): boolean =>
  SEVERITIES.indexOf(one) <= SEVERITIES.indexOf(as)

function firewallsOf(model: Model, { objects, anchor, evidence }: Finding): ReadonlySet<string> {
  const named = [anchor, ...objects].filter((ref) => ref.startsWith('firewalls/'))
  const sides = objects.flatMap((ref) => {
    const index = ref.startsWith('interfaces/')
      ? model.index.interfaces.get(ref.slice('interfaces/'.length))
      : undefined
    const side = index === undefined ? undefined : model.firewallAt.get(index)
    return side ? [model.firewalls[side.firewall]!.ref] : []
  })
  const shown = evidence.question === null ? null : trace(model, evidence.question)
  const met =
    shown === null || isRefusal(shown)
      ? []
      : [...shown.forward.stations, ...(shown.return?.stations ?? [])]
          .map(({ at }) => at)
          .filter((at) => at.startsWith('firewalls/'))
  return new Set([...named, ...sides, ...met])
}

function endsOf(model: Model, question: Question | null, finding: Finding | null): PurposeEnds {
  const shown = question === null ? null : trace(model, question)
  const ends = shown === null || isRefusal(shown) ? [] : questionEnds(model, shown)
  const [from, to] = ends
  const refs = finding === null ? [] : [finding.anchor, ...finding.objects]
  const named = new Set(refs.flatMap((ref) => subnetsOf(model, ref)))
  const own = [...(from?.subnet ?? []), ...(to?.subnet ?? [])]
  const near = new Set([...own, ...named].flatMap((id) => sharingTable(model, id)))
  return {
    near,
    far: new Set([...(from ? [from.kind] : []), ...(to ? [to.kind] : [])]),
    begins: sideOf(from, named),
    ends: sideOf(to, named),
    ranges: rangesOf(finding),
    named,
  }
}

/** One side of a question: the subnets that the finding names, else what the end is of. */
function sideOf(end: QuestionEnd | undefined, named: ReadonlySet<string>): ReadonlySet<string> {
  if (end === undefined) return new Set()
  if (end.subnet.length === 0) return new Set([end.kind])
  const own = end.subnet.some((id) => named.has(id)) ? [...named] : end.subnet
  return new Set([...own, ...end.subnet].map((id) => `subnets/${id}`))
}

function rangesOf(finding: Finding | null): RangeSet {
  const out: Range[] = []
  for (const text of finding?.evidence.ranges ?? []) {
    const address = parseAddress(text)
    if (address !== null) out.push({ from: address, to: address })
    else if (/^[\da-f:.]+\/\d+$/i.test(text)) out.push(...rangeSetOf([prefixOf(text)]))
  }
  return rangeSet(out)
}

interface QuestionEnd {
  readonly kind: string
  readonly subnet: readonly string[]
}

/** Where a question begins and where it is meant to end. */
function questionEnds(model: Model, { forward }: Trace): QuestionEnd[] {
  const [first] = forward.stations
  if (!first) return []
  const { dst } = first.packet
  const source = first.at
  const begins: QuestionEnd = {
    kind: kindOfRef(model, source),
    subnet: subnetsOf(model, source),
  }
  return [begins, endAt(model, parseAddress(dst)!, begins)]
}

/** What an address is of: a host's subnet, else a site, a service or the internet. */
function endAt(model: Model, address: Address, { subnet }: QuestionEnd): QuestionEnd {
  const near = model.subnets[model.index.subnets.get(subnet[0] ?? '') ?? -1]?.network
  const owner =
    model.publicOwners.get(address) ??
    (near === undefined ? undefined : model.networks[near]?.owners.get(address)) ??
    model.networks.map(({ owners }) => owners.get(address)).find((one) => one !== undefined)
  if (owner?.kind === 'interface') {
    const { ref } = model.interfaces[owner.index]!
    return { kind: kindOfRef(model, ref), subnet: subnetsOf(model, ref) }
  }
  if (owner?.kind === 'frontend') {
    const front = model.frontends[owner.index]!
    const network = model.networks[front.network]?.ref ?? 'internet'
    return { kind: network, subnet: [model.subnets[front.subnet]?.id ?? ''] }
  }
  const within = model.subnets.filter(
    (one) => one.up && one.allRanges.some((prefix) => isIn(prefix, address)),
  )
  if (within.length > 0)
    return {
      kind: model.networks[within[0]!.network]?.ref ?? 'internet',
      subnet: within.map(({ id }) => id),
    }
  const network = model.networks.find((one) => one.ranges.some((prefix) => isIn(prefix, address)))
  if (network) return { kind: network.ref, subnet: [] }
  const site = [...model.estate.sites].find(([, one]) =>
    (one.ranges ?? []).some((text) => isIn(prefixOf(text), address)),
  )
  const ref = site ? `sites/${site[0]}` : outsideRef(model, address)
  return { kind: ref.startsWith('parties/') ? 'internet' : ref, subnet: [] }
}

const isIn = (prefix: ReturnType<typeof prefixOf>, address: Address): boolean =>
  rangeSetOf([prefix]).some(
    ({ from, to }) => typeof from === typeof address && from <= address && address <= to,
  )

/** The kind of end that a name of a row stands for: a network, a site, a service, the internet. */
export function kindOfEnd(model: Model, name: string): string {
  const [kind, id] = splitAt(name)
  if (kind === 'interface') return kindOfRef(model, `interfaces/${id}`)
  if (kind === 'frontend') {
    const front = model.frontends[model.index.frontends.get(id) ?? -1]
    return model.networks[front?.network ?? -1]?.ref ?? 'internet'
  }
  return kind === 'site' || kind === 'service' ? `${kind}s/${id}` : 'internet'
}

/** The subnet that a name of a row is in; null for what is outside. */
export function subnetOfEnd(model: Model, name: string): string | null {
  const [kind, id] = splitAt(name)
  if (kind === 'frontend') {
    const front = model.frontends[model.index.frontends.get(id) ?? -1]
    return model.subnets[front?.subnet ?? -1]?.id ?? null
  }
  return kind === 'interface' ? (subnetsOf(model, `interfaces/${id}`)[0] ?? null) : null
}

function splitAt(name: string): [kind: string, id: string] {
  const colon = name.indexOf(':')
  return colon < 0 ? [name, ''] : [name.slice(0, colon), name.slice(colon + 1)]
}

function kindOfRef(model: Model, ref: string): string {
  const [subnet] = subnetsOf(model, ref)
  if (subnet !== undefined) {
    const { network } = model.subnets[model.index.subnets.get(subnet)!]!
    return model.networks[network]?.ref ?? 'internet'
  }
  return ref.startsWith('sites/') || ref.startsWith('services/') ? ref : 'internet'
}

/** The subnets that an object is, is in, or holds. */
function subnetsOf(model: Model, ref: string): readonly string[] {
  if (!ref.includes('/')) return []
  const [section, id] = splitRef(ref)
  const idsOf = (numbers: readonly number[]): string[] =>
    numbers.flatMap((index) => model.subnets[index]?.id ?? [])
  const { index } = model
  switch (section) {
    case 'subnets':
      return index.subnets.has(id) ? [id] : []
    case 'interfaces':
      return idsOf([model.interfaces[index.interfaces.get(id) ?? -1]?.subnet ?? -1])
    case 'routeTables': {
      const table = index.routeTables.get(id)
      return model.subnets.flatMap((one) => (one.table === table ? [one.id] : []))
    }
    case 'networks':
      return idsOf(model.networks[index.networks.get(id) ?? -1]?.subnets ?? [])
    case 'frontends':
      return idsOf([model.frontends[index.frontends.get(id) ?? -1]?.subnet ?? -1])
    default:
      return []
  }
}

/** A subnet with all that look up in its table: a fault of the table is the fault of each. */
function sharingTable(model: Model, id: string): readonly string[] {
  const own = model.subnets[model.index.subnets.get(id) ?? -1]
  if (!own || own.table < 0) return [id]
  return model.subnets.flatMap((one) => (one.table === own.table ? [one.id] : []))
}
