import { pointer } from '../mend/change'
import { subtractBox } from '../packet/packet-set'
import { boxesOf } from '../rules/boxes'
import { ruleBook, type SetRule } from '../rules/rule-book'
import { ruleText } from '../rules/words'
import { finding } from './finding'
import { check, checkWhole, idsOf, listText, presentOf } from './survey'

/** More boxes than this are not subtracted: the rule is then taken to be of use. */
const MOST_BOXES = 400

/** Rules that can never match. */
export const checkRules = check(
  ({ model }) => idsOf(model, 'ruleSets'),
  ({ model }, id) => {
    const source = model.estate.ruleSets.get(id)!
    const set = ruleBook(model).set(model.index.ruleSets.get(id)!)
    return (['in', 'out'] as const).flatMap((direction) => {
      const rules = set.rules.filter((rule) => rule.direction === direction)
      return rules.flatMap((rule, at) => {
        // In an ordered set what stands before it; in a set of permissions any other, of two equal ones the later.
        const others = set.ordered ? rules.slice(0, at) : rules.filter((other, place) => other !== rule && (place < at || !covers(rule, other)))
        const by = coveredBy(rule, others)
        if (by === null || by.length === 0) return []
        const written = source.rules![rule.entry]!
        const names = by.map((other) => (other.order === null ? `rule ${other.entry + 1}` : `rule ${other.order}`))
        return [
          finding({
            code: 'odd-shadowed-rule',
            severity: by.some((other) => other.allow !== rule.allow) ? 'medium' : 'low',
            anchor: set.ref,
            sentence: `In ${id}, ${rule.order === null ? `rule ${rule.entry + 1}` : `rule ${rule.order}`} (${ruleText(written)}) never matches: ${listText(names)} ${names.length === 1 ? 'covers' : 'cover'} all of it.`,
            part: `${rule.order ?? ''} ${ruleText(written)}`,
            facts: by.map((other) => ruleText(source.rules![other.entry]!)),
            mend: { what: `take the rule out of ${id}`, changes: [{ op: 'remove', path: pointer('ruleSets', id, 'rules', rule.entry) }] },
          }),
        ]
      })
    })
  },
)

const covers = (outer: SetRule, inner: SetRule): boolean => coveredBy(inner, [outer])?.length === 1

/** The rules that together match all that a rule matches; null where they do not, or where that is too much to say. */
function coveredBy(rule: SetRule, others: readonly SetRule[]): SetRule[] | null {
  let rest = boxesOf(rule)
  if (rest.length === 0) return null
  const by: SetRule[] = []
  for (const other of others) {
    if (!mayCover(rule, other)) continue
    const before = rest
    for (const hole of boxesOf(other)) {
      rest = rest.flatMap((box) => subtractBox(box, hole))
      if (rest.length > MOST_BOXES) return null
    }
    if (rest.length !== before.length || rest.some((box, at) => box !== before[at])) by.push(other)
    if (rest.length === 0) return by
  }
  return null
}

/** A quick look: whether two rules can have a packet in common at all. */
const mayCover = (rule: SetRule, other: SetRule): boolean =>
  (rule.protocol === null || other.protocol === null || rule.protocol === other.protocol) &&
  (rule.ports === null || other.ports === null || rule.ports.some(([low, high]) => other.ports!.some(([from, to]) => low <= to && from <= high)))

/** Interfaces that no rule set stands before. */
export const checkWithoutRules = check(
  ({ model }) => presentOf(model, 'interfaces'),
  ({ model }, index) => {
    const one = model.interfaces[index]!
    const subnet = model.subnets[one.subnet]
    if (!subnet) return []
    const sets = [...one.ruleSets, ...subnet.ruleSets, one.localRules, subnet.boundary].filter((set) => set >= 0)
    if (sets.length > 0) return []
    return [
      finding({
        code: 'odd-no-rules',
        severity: one.publicAddress === null ? 'low' : 'medium',
        anchor: one.ref,
        objects: [one.ref, subnet.ref],
        sentence: `${one.id} has no rule set at any level: whatever reaches it is let in.`,
      }),
    ]
  },
)

/** Sets nobody carries. */
export const checkIdleSets = checkWhole(({ model }) => {
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
            mend: { what: `remove ${id}`, changes: [{ op: 'remove', path: pointer('ruleSets', id) }] },
          }),
        ],
  )
})
