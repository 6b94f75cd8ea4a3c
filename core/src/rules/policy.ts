import { derived } from '../incremental/derived'
import { prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import type { Firewall } from '../format/estate'
import type { FirewallModel, Model } from '../model/model'
import { destinationPrefixes } from '../model/routes'
import { protocolNumber, type Packet } from '../packet/packet'
import { memberRanges } from './rule-book'
import {
  addressMatches,
  portMatches,
  portSpans,
  protocolMatches,
  type NoteField,
  type PortSpan,
} from './condition'

type WrittenRule = NonNullable<Firewall['policy']>[number]

interface PolicyRule {
  readonly written: WrittenRule
  readonly from: RangeSet | null
  readonly to: RangeSet | null
  readonly protocol: number | null
  readonly ports: readonly PortSpan[] | null
  readonly sourcePorts: readonly PortSpan[] | null
}

/** What a firewall's policy said of a packet. */
export interface PolicyVerdict {
  readonly passes: boolean
  /** The order of the rule that decided; null where none matched. */
  readonly order: number | null
  /** The application the deciding rule names: what is inside a connection is not checked. */
  readonly application: string | null
  readonly asked: readonly {
    readonly order: number
    readonly action: string
    readonly mismatch: string | null
    readonly says: string
  }[]
}

const policyOf = (model: Model, { index }: FirewallModel): readonly PolicyRule[] =>
  policyOfNumber(model, index)

const policyOfNumber = derived((model: Model, index: number): readonly PolicyRule[] =>
  [...(model.firewalls[index]!.source.policy ?? [])]
    .sort((a, b) => a.order - b.order)
    .map((written): PolicyRule => ({
      written,
      from: peersOf(model, written.from),
      to: peersOf(model, written.to),
      protocol:
        written.protocol === undefined || written.protocol === 'any'
          ? null
          : protocolNumber(written.protocol),
      ports: portSpans(written.ports),
      sourcePorts: portSpans(written.sourcePorts),
    })),
)

function peersOf(model: Model, peers: WrittenRule['from']): RangeSet | null {
  if (peers === undefined) return null
  const ranges = peers.flatMap((peer): readonly Range[] => {
    if (typeof peer === 'string') return rangeSetOf([prefixOf(peer)])
    return 'prefixList' in peer
      ? rangeSetOf(destinationPrefixes(model.estate, peer))
      : memberRanges(model, peer.ruleSet)
  })
  return rangeSet(ranges)
}

/**
 * Asks a firewall's policy: the first match decides, else what it does otherwise. Sides are null at
 * an inline firewall.
 */
export function askPolicy(
  model: Model,
  firewall: FirewallModel,
  packet: Packet,
  sides: { from: string; to: string } | null,
  note?: NoteField,
): PolicyVerdict {
  const asked: PolicyVerdict['asked'][number][] = []
  for (const rule of policyOf(model, firewall)) {
    const unfit = mismatch(rule, packet, sides, note)
    const { order, action } = rule.written
    asked.push({ order, action, mismatch: unfit, says: policyText(rule.written) })
    if (unfit === null)
      return {
        passes: action === 'allow',
        order,
        application: rule.written.application ?? null,
        asked,
      }
  }
  return { passes: firewall.source.otherwise === 'allow', order: null, application: null, asked }
}

function mismatch(
  rule: PolicyRule,
  packet: Packet,
  sides: { from: string; to: string } | null,
  note?: NoteField,
): string | null {
  const { written } = rule
  if (written.fromSide !== undefined && written.fromSide !== sides?.from)
    return 'side it comes from'
  if (written.toSide !== undefined && written.toSide !== sides?.to) return 'side it goes to'
  if (!protocolMatches(rule.protocol, packet, note)) return 'protocol'
  if (!portMatches(rule.ports, packet, 'dstPort', note)) return 'port'
  if (!portMatches(rule.sourcePorts, packet, 'srcPort', note)) return 'source port'
  if (!addressMatches(rule.from, packet, 'src', note)) return 'source'
  return addressMatches(rule.to, packet, 'dst', note) ? null : 'destination'
}

function policyText(rule: WrittenRule): string {
  const sides =
    rule.fromSide || rule.toSide
      ? ` ${rule.fromSide ?? 'any side'} to ${rule.toSide ?? 'any side'},`
      : ''
  const peer = (peers: WrittenRule['from']): string =>
    peers === undefined
      ? 'any'
      : peers
          .map((p) =>
            typeof p === 'string'
              ? p
              : 'prefixList' in p
                ? `list ${p.prefixList}`
                : `members of ${p.ruleSet}`,
          )
          .join(', ')
  const ports = rule.ports && rule.ports.length > 0 ? ` ${rule.ports.join(', ')}` : ''
  return `${rule.action}${sides} ${rule.protocol ?? 'any'}${ports} from ${peer(rule.from)} to ${peer(rule.to)}`
}
