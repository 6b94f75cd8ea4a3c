import type { Root } from './root'
import type { Mend } from '../mend/mend'
import type { PacketJson } from '../packet/packet'
import type { Question } from '../trace/question'

export const FINDING_CODES = [
  'leak-direct',
  'leak-round-firewall',
  'leak-ipv6',
  'leak-one-way-inspected',
  'leak-service-by-internet',
  'leak-name-public',
  'leak-learned-route',
  'leak-segment',
  'open-to-internet',
  'in-round-firewall',
  'hole-dead-target',
  'hole-no-way-out',
  'hole-no-public-address',
  'hole-nat-without-way-out',
  'hole-nat-out-of-reach',
  'hole-next-hop',
  'hole-not-transitive',
  'hole-forwarded-refused',
  'hole-no-way-back',
  'hole-no-state',
  'hole-ephemeral',
  'hole-loop',
  'hole-overlap',
  'hole-no-door',
  'hole-not-announced',
  'hole-rules-without-route',
  'hole-route-without-rules',
  'odd-role',
  'odd-default-table',
  'odd-steers-nothing',
  'odd-shared-inspection-subnet',
  'odd-crosses-zone',
  'odd-changing-address',
  'odd-not-allowlisted',
  'odd-nat-capacity',
  'odd-quota',
  'odd-missing-tag',
  'odd-name-server',
  'odd-shadowed-route',
  'odd-shadowed-rule',
  'odd-no-rules',
  'odd-unlike',
  'idle-table',
  'idle-gateway',
  'idle-nat',
  'idle-address',
  'idle-rule-set',
  'idle-network',
  'idle-peering',
  'idle-endpoint',
] as const

export type FindingCode = (typeof FINDING_CODES)[number]

export const SEVERITIES = ['critical', 'high', 'medium', 'low', 'note'] as const
export type Severity = (typeof SEVERITIES)[number]

/** The three families: traffic goes a way it should not, is lost, or works but not as it seems. */
export type Family = 'leak' | 'hole' | 'weak'

/** What shows that a finding is so. */
export interface FindingEvidence {
  /** The exact destinations, sources or addresses it is about, as prefixes or addresses. */
  readonly ranges: readonly string[]
  /** One packet that shows it. */
  readonly packet: PacketJson | null
  /** A question that shows it, answered by a trace. */
  readonly question: Question | null
  /** What else is to be said, in a few words each. */
  readonly facts: readonly string[]
}

export interface Finding {
  readonly code: FindingCode
  readonly severity: Severity
  /** The one object that stands for it, as `section/id`; `estate` for the estate as a whole. */
  readonly anchor: string
  /** Every object concerned, the one to change first at the head. */
  readonly objects: readonly string[]
  readonly sentence: string
  /** The same flaw keeps it from revision to revision. */
  readonly fingerprint: string
  /** What decides it: findings that one thing decides have the same. */
  readonly root: Root
  readonly evidence: FindingEvidence
  /** The smallest change known that would mend it; null where the estate alone does not say. */
  readonly mend: Mend | null
}

/**
 * A finding as it is told to others: proposals are asked for, since each is tried against the whole
 * estate, which the mend that a check names was not.
 */
export type ToldFinding = Omit<Finding, 'mend'>

/** The finding without the mend that its check names. */
export function withoutMend(finding: Finding): ToldFinding {
  const { mend: _, ...told } = finding
  return told
}

/** A finding as a check states it; what can be derived is left out. */
export interface Stated {
  readonly code: FindingCode
  readonly severity: Severity
  readonly anchor: string
  readonly objects?: readonly (string | null | undefined)[]
  readonly sentence: string
  readonly root: Root
  /** What tells it from others of its code at its anchor, if there can be several. */
  readonly part?: string
  readonly ranges?: readonly string[]
  readonly packet?: PacketJson
  readonly question?: Question
  readonly facts?: readonly string[]
  readonly mend?: Mend | null
}

/** A finding from what a check states: with its fingerprint, and its anchor among its objects. */
export function finding({
  code,
  severity,
  anchor,
  objects = [],
  sentence,
  root,
  part = '',
  ranges = [],
  packet,
  question,
  facts = [],
  mend = null,
}: Stated): Finding {
  return {
    code,
    severity,
    anchor,
    objects: [
      ...new Set([...objects, anchor].filter((one): one is string => one?.includes('/') === true)),
    ],
    sentence,
    fingerprint: fingerprint(`${code}|${anchor}|${part}`),
    root,
    evidence: {
      ranges,
      packet: packet ?? null,
      question: question === undefined ? null : { protocol: 'tcp', port: 443, ...question },
      facts,
    },
    mend,
  }
}

/**
 * A short, stable name for a text: FNV-1a over 64 bits, held as two halves of 32. The prime is
 * 2⁴⁰ + 435, so a product is one of the low half by 435, whose carry goes up, and shifts.
 */
export function fingerprint(text: string): string {
  let [high, low] = [0xcbf29ce4, 0x84222325]
  for (let i = 0; i < text.length; i++) {
    const mixed = (low ^ text.charCodeAt(i)) >>> 0
    const product = mixed * 435
    low = product >>> 0
    high = (Math.imul(high, 435) + Math.floor(product / 2 ** 32) + (mixed << 8)) >>> 0
  }
  const hex = (half: number): string => half.toString(16).padStart(8, '0')
  return hex(high) + hex(low)
}

/** Findings of one fingerprint, such as several hosts of a subnet that show the same. */
interface Joined {
  readonly first: Finding
  readonly objects: Set<string>
  /** Null where the ranges of the first one stand for all. */
  readonly ranges: Set<string> | null
}

/** Findings by their fingerprints, those of the same one as one. */
export interface FindingsByFingerprint {
  /** Puts findings with those known. Costs a step for each object and range of theirs. */
  readonly add: (findings: Iterable<Finding>, joinsRanges: boolean) => void
  readonly all: () => Finding[]
}

/** No findings so far. */
export function findingsByFingerprint(): FindingsByFingerprint {
  const known = new Map<string, Finding | Joined>()
  return {
    add: (findings, joinsRanges) => {
      for (const each of findings) {
        const before = known.get(each.fingerprint)
        if (before === undefined) known.set(each.fingerprint, each)
        else if ('first' in before) put(before, each)
        else known.set(each.fingerprint, put(joinedOf(before, joinsRanges), each))
      }
    },
    all: () => [...known.values()].map((one) => ('first' in one ? together(one) : one)),
  }
}

const joinedOf = (first: Finding, joinsRanges: boolean): Joined => ({
  first,
  objects: new Set(first.objects),
  ranges: joinsRanges ? new Set(first.evidence.ranges) : null,
})

function put(joined: Joined, { objects, evidence }: Finding): Joined {
  for (const object of objects) joined.objects.add(object)
  if (joined.ranges !== null) for (const range of evidence.ranges) joined.ranges.add(range)
  return joined
}

const together = ({ first, objects, ranges }: Joined): Finding => ({
  ...first,
  objects: [...objects],
  evidence: ranges === null ? first.evidence : { ...first.evidence, ranges: [...ranges] },
})

/** One finding for each fingerprint. */
export function unique(findings: Iterable<Finding>, joinsRanges = false): Finding[] {
  const known = findingsByFingerprint()
  known.add(findings, joinsRanges)
  return known.all()
}

/** The worst first, then by code and anchor. */
export const byGravity = (a: ToldFinding, b: ToldFinding): number =>
  SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity) ||
  byText(a.code, b.code) ||
  byText(a.anchor, b.anchor) ||
  byText(a.fingerprint, b.fingerprint)

const byText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)
export type Add = (stated: Stated) => unknown
