import type { Finding } from '../findings/finding'
import { pointer, type Operation } from '../changes/index'
import type { Peer, Rule, RuleSet } from '../format/estate'
import { mend, type Mend } from '../mend/mend'
import { ownCopy } from '../mend/recipes/routes'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'
import type { RulesEvidence } from '../rules/words'
import { isRefusal } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import { insideRanges, rulesOfItsOwn } from './keeping-closed'

/**
 * Ways of closing what is open to the internet without touching other traffic: the rule that lets
 * it in is kept for everybody inside and taken from the internet, first in a set that the host has
 * for itself, then in the set that others share.
 */
export function* waysToClose(model: Model, finding: Finding): Generator<Mend> {
  const { evidence, anchor } = finding
  if (anchor.startsWith('subnets/')) yield* waysToKeepIn(model, finding)
  if (evidence.question === null || !anchor.startsWith('interfaces/')) return
  const answer = trace(model, evidence.question)
  if (isRefusal(answer)) return
  const id = anchor.slice('interfaces/'.length)
  const host = model.estate.interfaces.get(id)
  if (!host) return
  const { levels } = lastRules(answer)
  for (const set of levels.flatMap((level) => level.sets)) {
    const name = set.set.slice('ruleSets/'.length)
    const written = model.estate.ruleSets.get(name)
    if (!set.passes || !written || !set.set.startsWith('ruleSets/')) continue
    const closed = withoutInternet(model, written)
    if (closed === null) continue
    const own = host.ruleSets?.indexOf(name) ?? -1
    if (own >= 0) {
      const copy = freeId(model.estate.ruleSets, `${id}-inside`)
      const { title: _, ...rest } = closed
      yield mend(`let only the inside reach ${id} where ${name} lets the internet in`, [
        { op: 'add', path: pointer('ruleSets', copy), value: rest },
        { op: 'replace', path: pointer('interfaces', id, 'ruleSets', own), value: copy },
      ])!
    }
    const shared: Operation = {
      op: 'replace',
      path: pointer('ruleSets', name, 'rules'),
      value: closed.rules,
    }
    yield mend(`keep the internet out of ${name}, and let the inside in as before`, [shared])!
  }
  if ((host.ruleSets ?? []).length === 0) {
    yield mend(`give ${id} rules of its own that let only the inside in`, rulesOfItsOwn(model, id))!
  }
  if (host.publicAddress !== undefined)
    yield mend(`take the public address from ${id}`, [
      { op: 'remove', path: pointer('interfaces', id, 'publicAddress') },
    ])!
}

/** Ways of keeping in what leaves a subnet directly: the default of its family leads nowhere. */
function* waysToKeepIn(model: Model, { anchor, code, evidence }: Finding): Generator<Mend> {
  if (code !== 'leak-direct' && code !== 'leak-ipv6') return
  const { estate } = model
  const id = anchor.slice('subnets/'.length)
  const subnet = model.subnets[model.index.subnets.get(id) ?? -1]
  if (!subnet) return
  const isV6 = code === 'leak-ipv6' || (evidence.packet?.dst.includes(':') ?? false)
  const to = isV6 ? '::/0' : '0.0.0.0/0'
  const table = subnet.table < 0 ? null : model.tables[subnet.table]!
  const kept = (table?.source.routes ?? []).filter((route) => route.to !== to)
  const source = table?.source ?? { network: estate.subnets.get(id)!.network }
  yield mend(
    `give ${id} a table of its own that leads ${to} nowhere`,
    ownCopy(estate, id, source, [...kept, { to, via: 'drop' }]),
  )!
}

/** What the rules before the host said, the last station at which any were asked. */
function lastRules({ forward }: Trace): Pick<RulesEvidence, 'levels'> {
  const station = [...forward.stations].reverse().find(({ kind }) => kind === 'rules')
  const evidence = station?.evidence as Partial<RulesEvidence> | undefined
  return { levels: evidence?.levels ?? [] }
}

/**
 * A set in which no inward rule lets the internet in; what the rule gave to the inside stays. Null
 * where no rule of it lets the internet in.
 */
function withoutInternet(model: Model, set: RuleSet): RuleSet | null {
  const inside = insideRanges(model.estate)
  let differs = false
  const rules = (set.rules ?? []).flatMap((rule): Rule[] => {
    if (rule.direction !== 'in' || rule.action === 'deny') return [rule]
    const peers = rule.peers ?? ['any' as const]
    const kept = peers.flatMap((peer): readonly Peer[] =>
      peer === 'any' || peer === '0.0.0.0/0' || peer === '::/0'
        ? inside
        : peer === 'internet'
          ? []
          : [peer],
    )
    if (kept.length === peers.length && kept.every((peer, at) => peer === peers[at])) return [rule]
    differs = true
    return kept.length === 0 ? [] : [{ ...rule, peers: [...new Set(kept)] }]
  })
  return differs ? { ...set, rules } : null
}
