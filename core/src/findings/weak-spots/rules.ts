import { missingIn } from '../root'
import { derived, sameItems } from '../../incremental/derived'
import { pointer } from '../../changes/index'
import { coverOf } from '../../rules/covered'
import { ruleBook } from '../../rules/rule-book'
import { ruleText } from '../../rules/words'
import { finding } from '../finding'
import type { Model } from '../../model/model'
import { neighboursSets } from '../../mend/recipes/upkeep'
import { remove } from '../../mend/recipes/removal'
import { check, checkWhole, listText } from '../survey'
import { idsOf, presentOf } from '../../model/present'

/** Rules that can never match. */
export const checkRules = check(
  'rules',
  ({ model }) => idsOf(model, 'ruleSets'),
  ({ model }, id) => {
    const source = model.estate.ruleSets.get(id)!
    const set = ruleBook(model).set(model.index.ruleSets.get(id)!)
    return (['in', 'out'] as const).flatMap((direction) => {
      return set.rules.flatMap((rule) => {
        const by = rule.direction === direction ? coverOf(set, rule) : null
        if (by === null) return []
        const written = source.rules![rule.entry]!
        const names = by.map((other) =>
          other.order === null ? `rule ${other.entry + 1}` : `rule ${other.order}`,
        )
        return [
          finding({
            code: 'odd-shadowed-rule',
            severity: by.some((other) => other.allow !== rule.allow) ? 'medium' : 'low',
            anchor: set.ref,
            sentence: `In ${id}, ${rule.order === null ? `rule ${rule.entry + 1}` : `rule ${rule.order}`} (${ruleText(written)}) never matches: ${listText(names)} ${names.length === 1 ? 'covers' : 'cover'} all of it.`,
            root: { kind: 'rule', object: set.ref, part: ruleText(written) },
            part: `${rule.order ?? ''} ${ruleText(written)}`,
            facts: by.map((other) => ruleText(source.rules![other.entry]!)),
            mend: {
              what: `take the rule out of ${id}`,
              changes: [{ op: 'remove', path: pointer('ruleSets', id, 'rules', rule.entry) }],
            },
          }),
        ]
      })
    })
  },
)

/** Interfaces that no rule set stands before. */
export const checkWithoutRules = check(
  'rules',
  ({ model }) => presentOf(model, 'interfaces'),
  ({ model }, index) => {
    const one = model.interfaces[index]!
    const subnet = model.subnets[one.subnet]
    if (!subnet) return []
    const sets = [...one.ruleSets, ...subnet.ruleSets, one.localRules, subnet.boundary].filter(
      (set) => set >= 0,
    )
    if (sets.length > 0) return []
    return [
      finding({
        code: 'odd-no-rules',
        severity: one.publicAddress === null ? 'low' : 'medium',
        anchor: one.ref,
        objects: [one.ref, subnet.ref],
        sentence: `${one.id} has no rule set at any level: whatever reaches it is let in.`,
        root: missingIn(one.ref, 'ruleSets'),
        mend: neighboursSets(model, one, subnet),
      }),
    ]
  },
)

/** The rule sets that rules and policies name as a far side. */
const setsNamedAsPeers = derived(
  (model: Model): ReadonlySet<string> => {
    const { ruleSets, firewalls } = model.estate
    const rules = [...ruleSets.values()].flatMap((set) => set.rules ?? [])
    const policies = [...firewalls.values()].flatMap((firewall) => firewall.policy ?? [])
    const peers = [
      ...rules.map((rule) => rule.peers),
      ...policies.flatMap((rule) => [rule.from, rule.to]),
    ]
    const named = peers
      .flatMap((some) => some ?? [])
      .flatMap((peer) => (typeof peer === 'object' && 'ruleSet' in peer ? [peer.ruleSet] : []))
    return new Set(named)
  },
  { same: sameItems },
)

/** Rule sets that no interface, subnet or frontend carries. */
export const checkIdleSets = checkWhole('rules', ({ model }) => {
  const { estate } = model
  const used = new Set<string>()
  const use = (...ids: (string | undefined)[]): void => {
    for (const id of ids) if (id !== undefined) used.add(id)
  }
  for (const one of estate.interfaces.values()) use(...(one.ruleSets ?? []), one.localRules)
  for (const one of estate.subnets.values()) use(...(one.ruleSets ?? []), one.boundary)
  for (const one of estate.frontends.values()) use(...(one.ruleSets ?? []))
  return [...model.index.ruleSets.keys()].flatMap((id) =>
    used.has(id)
      ? []
      : [
          finding({
            code: 'idle-rule-set',
            severity: 'note',
            anchor: `ruleSets/${id}`,
            sentence: `Nothing carries ${id}: its rules are never asked.`,
            root: { kind: 'unused', object: `ruleSets/${id}`, part: '' },
            mend: setsNamedAsPeers(model).has(id) ? null : remove(model, 'ruleSets', id),
          }),
        ],
  )
})
