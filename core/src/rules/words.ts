import type { EstateRule, Peer, Rule } from '../format/estate'
import type { Model } from '../model/model'
import type { AskedLevel, AskedRule, AskedSet, Verdict } from './ask'
import type { Direction } from './condition'

/** A rule as it was written, in one line: `allow in tcp 443 from any`. */
export function ruleText(rule: Rule | EstateRule): string {
  const ports = rule.ports && rule.ports.length > 0 ? ` ${rule.ports.join(', ')}` : ''
  const source =
    rule.sourcePorts && rule.sourcePorts.length > 0
      ? ` source port ${rule.sourcePorts.join(', ')}`
      : ''
  const peers = rule.peers === undefined ? 'any' : rule.peers.map(peerText).join(', ') || 'nobody'
  const local = rule.local ? `, near side ${rule.local.join(', ')}` : ''
  return `${rule.action ?? 'allow'} ${rule.direction} ${rule.protocol ?? 'any'}${ports}${source} ${rule.direction === 'in' ? 'from' : 'to'} ${peers}${local}`
}

function peerText(peer: Peer): string {
  if (typeof peer === 'string') return peer
  if ('prefixList' in peer) return `list ${peer.prefixList}`
  if ('ruleSet' in peer) return `members of ${peer.ruleSet}`
  return 'service' in peer ? `service ${peer.service}` : `tag ${peer.tag}`
}

/** What rules said, as a station's evidence. */
export interface RulesEvidence {
  readonly direction: Direction
  readonly levels: readonly (Omit<AskedLevel, 'sets'> & {
    readonly sets: readonly (Omit<AskedSet, 'rules'> & {
      readonly rules: readonly (AskedRule & { readonly says: string })[]
    })[]
  })[]
}

/** The evidence of a station at which rules were asked. */
export function rulesEvidence(model: Model, verdict: Verdict, direction: Direction): RulesEvidence {
  const written = (
    set: AskedSet,
    rule: AskedRule,
    level: AskedLevel['level'],
  ): Rule | EstateRule | undefined =>
    level === 'estate'
      ? model.estate.estateRules.find(
          (candidate) => candidate.order === rule.order && candidate.direction === direction,
        )
      : model.estate.ruleSets.get(set.set.slice('ruleSets/'.length))?.rules?.[rule.entry]
  return {
    direction,
    levels: verdict.levels.map((level) => ({
      ...level,
      sets: level.sets.map((set) => ({
        ...set,
        rules: set.rules.map((rule) => {
          const source = written(set, rule, level.level)
          return { ...rule, says: source ? ruleText(source) : '' }
        }),
      })),
    })),
  }
}
