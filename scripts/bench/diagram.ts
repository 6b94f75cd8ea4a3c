import { FIELDS, type PacketBox } from '../../core/src/packet/packet-set'

/**
 * Packet sets as ordered interval decision diagrams, to be measured beside boxes: a node asks one
 * field and leads on by spans of it; nodes that say the same are one node, so that equal sets are
 * the same node. (After the multi-valued decision diagrams in the literature on firewall analysis;
 * Bryant's apply with a memo.) Only of one family at a time, IPv4 here.
 */
export interface Node {
  readonly number: number
  readonly field: number
  /** The highest value of each span, and where it leads. */
  readonly ends: readonly number[]
  readonly to: readonly (Node | boolean)[]
}
export type Diagram = Node | boolean

const nodes = new Map<string, Node>()
const names = (one: Diagram): string =>
  typeof one === 'boolean' ? (one ? 'T' : 'F') : String(one.number)
export const nodeCount = (): number => nodes.size

function node(field: number, ends: readonly number[], to: readonly Diagram[]): Diagram {
  const keep = ends.map((_, at) => at + 1 === ends.length || to[at] !== to[at + 1])
  const [spans, leads] = [ends.filter((_, at) => keep[at]), to.filter((_, at) => keep[at])]
  if (leads.length === 1) return leads[0]!
  const key = `${field}|${spans.join()}|${leads.map(names).join()}`
  let known = nodes.get(key)
  if (!known) nodes.set(key, (known = { number: nodes.size, field, ends: spans, to: leads }))
  return known
}

const HIGHEST = [0xffffffff, 0xffffffff, 255, 65535, 65535]

export function ofBox(box: PacketBox): Diagram {
  return FIELDS.reduceRight<Diagram>((inner, field, at) => {
    const [from, to] = [Number(box[field].from), Number(box[field].to)]
    const ends = [...(from > 0 ? [from - 1] : []), to, ...(to < HIGHEST[at]! ? [HIGHEST[at]!] : [])]
    return node(
      at,
      ends,
      ends.map((end) => (end === to ? inner : false)),
    )
  }, true)
}

export type Operation = 'and' | 'or' | 'without'

function settled(operation: Operation, a: Diagram, b: Diagram): Diagram | null {
  if (operation === 'and')
    return a === false || b === false ? false : a === true ? b : b === true || a === b ? a : null
  if (operation === 'or')
    return a === true || b === true ? true : a === false ? b : b === false || a === b ? a : null
  return a === false || b === true || a === b ? false : b === false ? a : null
}

export function apply(
  operation: Operation,
  a: Diagram,
  b: Diagram,
  memo = new Map<string, Diagram>(),
): Diagram {
  const end = settled(operation, a, b)
  if (end !== null) return end
  const key = `${names(a)} ${names(b)}`
  const known = memo.get(key)
  if (known !== undefined) return known
  const field = Math.min(typeof a === 'boolean' ? 9 : a.field, typeof b === 'boolean' ? 9 : b.field)
  const spans = (one: Diagram): { ends: readonly number[]; to: readonly Diagram[] } =>
    typeof one !== 'boolean' && one.field === field ? one : { ends: [HIGHEST[field]!], to: [one] }
  const [x, y] = [spans(a), spans(b)]
  const ends: number[] = []
  const to: Diagram[] = []
  for (let i = 0, k = 0; i < x.ends.length && k < y.ends.length;) {
    const cut = Math.min(x.ends[i]!, y.ends[k]!)
    ends.push(cut)
    to.push(apply(operation, x.to[i]!, y.to[k]!, memo))
    if (x.ends[i] === cut) i++
    if (y.ends[k] === cut) k++
  }
  const made = node(field, ends, to)
  memo.set(key, made)
  return made
}

/** Whether a packet, as its values in the order of the fields, is in a set. */
export function holds(set: Diagram, values: readonly number[]): boolean {
  let at = set
  while (typeof at !== 'boolean') {
    const { ends, to, field } = at
    at = to[ends.findIndex((end) => values[field]! <= end)]!
  }
  return at
}
