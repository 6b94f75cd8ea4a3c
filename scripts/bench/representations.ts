import type { Model } from '@salt-trail/core'
import { random } from '../../core/test/random/random'
import {
  allPackets,
  FIELDS,
  intersectSets,
  subtractSets,
  type PacketSet,
} from '../../core/src/packet/packet-set'
import { passedBySet } from '../../core/src/rules/boxes'
import { ruleBook } from '../../core/src/rules/rule-book'
import { apply, holds, nodeCount, ofBox, type Diagram } from './diagram'

const SETS = 300

/**
 * What packet sets cost as lists of boxes and as decision diagrams, on the rule sets of an estate.
 */
export function benchRepresentations(
  name: string,
  model: Model,
  row: (what: string, value: string) => void,
): void {
  const book = ruleBook(model)
  const numbers = [...model.index.ruleSets.values()].slice(0, SETS)
  const timed = <T>(work: () => T): [T, string] => {
    const start = performance.now()
    const made = work()
    return [made, `${(performance.now() - start).toFixed(0)} ms`]
  }
  for (const index of numbers) for (const rule of book.set(index).rules) rule.peers()
  const [boxes, boxesMade] = timed(() =>
    numbers.map((index): PacketSet => passedBySet(book.set(index), 'in', [allPackets(4)])),
  )
  const pairs = boxes.map((_, at) => [at, (at + 1) % boxes.length] as const)
  const [met, boxesMet] = timed(() => pairs.map(([a, b]) => intersectSets(boxes[a]!, boxes[b]!)))
  const [left, boxesLeft] = timed(() => pairs.map(([a, b]) => subtractSets(boxes[a]!, boxes[b]!)))
  const pieces = boxes.reduce((sum, set) => sum + set.length, 0)
  row(
    `${name}: ${numbers.length} rule sets as boxes`,
    `made in ${boxesMade}, neighbours met in ${boxesMet}, taken from each other in ${boxesLeft}; ${pieces} boxes, ${left.reduce((sum, set) => sum + set.length, 0)} left`,
  )
  const [diagrams, diagramsMade] = timed(() =>
    boxes.map((set) => set.reduce<Diagram>((all, box) => apply('or', all, ofBox(box)), false)),
  )
  const [diagramsAnd, diagramsMet] = timed(() =>
    pairs.map(([a, b]) => apply('and', diagrams[a]!, diagrams[b]!)),
  )
  const [diagramsWithout, diagramsLeft] = timed(() =>
    pairs.map(([a, b]) => apply('without', diagrams[a]!, diagrams[b]!)),
  )
  row(
    `${name}: the same as decision diagrams`,
    `made from the boxes in ${diagramsMade}, met in ${diagramsMet}, taken from each other in ${diagramsLeft}; ${nodeCount()} nodes in all`,
  )
  const r = random(45)
  let differ = 0
  for (let at = 0; at < 20_000; at++) {
    const pair = r.number(pairs.length)
    const from = r.pick(boxes[pair]!.length > 0 ? boxes[pair]! : [allPackets(4)])
    const values = FIELDS.map(
      (field) =>
        Number(from[field].from) +
        r.number(Math.min(1_000, Number(from[field].to) - Number(from[field].from) + 1)),
    )
    const inBoxes = (set: PacketSet): boolean =>
      set.some((box) =>
        FIELDS.every(
          (field, i) =>
            Number(box[field].from) <= values[i]! && values[i]! <= Number(box[field].to),
        ),
      )
    if (
      inBoxes(met[pair]!) !== holds(diagramsAnd[pair]!, values) ||
      inBoxes(left[pair]!) !== holds(diagramsWithout[pair]!, values)
    )
      differ++
  }
  row(`${name}: random packets that the two see otherwise`, `${differ} of 20,000`)
}
