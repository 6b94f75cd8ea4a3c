import { derived } from '../incremental/derived'
import type { Model } from '../model/model'
import { groupBy } from '../model/sections'
import { belongingOf, type Belonging, type UnitSection } from './belonging'
import { eachStatement, type Statement } from './statements'

/** What is compared with its likes. */
export const ALIKE_SECTIONS = ['networks', 'subnets', 'routeTables'] as const
export type AlikeSection = (typeof ALIKE_SECTIONS)[number]

/** Objects of which the estate says the same, but for names and ranges. */
export interface AlikeClass {
  /** Their numbers, in the order of the estate. */
  readonly members: readonly number[]
  /** Of objects that are almost like many others: those, and what is different. */
  readonly unlike: Unlike | null
}

export interface Unlike {
  /** The place of the class that is the rule. */
  readonly norm: number
  /** What those have and these lack, as the first of those says it. */
  readonly lacks: readonly Statement[]
  /** What each of these has and those lack, by its number. */
  readonly has: ReadonlyMap<number, readonly Statement[]>
}

/** The objects of a section by likeness: each is in one class. */
export interface Likeness {
  readonly classes: readonly AlikeClass[]
  /** The place of an object's class, by its number. */
  readonly classOf: ReadonlyMap<number, number>
}

/** So many objects that are alike make a rule that others can differ from. */
export const MANY = 8
/** How many times as many as those that differ from it. */
const OUTNUMBERS = 4
/** An object that differs from another in more statements is another kind of thing. */
const MOST_DIFFERENCES = 4
/** At most this many rules of one kind of object are looked at. */
const MOST_NORMS = 4

/**
 * Which networks, subnets or route tables are alike: the estate says the same of them and of all
 * that belongs to them, once their own names and ranges are left out, and other units that are
 * named are told apart only by what they are. Of those that are few and almost like many, what is
 * different.
 * Costs two passes over the estate, and a sort of what is said of each object.
 */
export const likenessOf = derived((model: Model, section: AlikeSection): Likeness =>
  compareAll(model, section),
)

/**
 * How many objects there are that are alike, or all but alike, to some, by their numbers: themselves
 * among them.
 */
export function countKin({ classes, classOf }: Likeness, numbers: readonly number[]): number {
  const normOf = (place: number): number => classes[place]?.unlike?.norm ?? place
  const norms = new Set(numbers.map((number) => normOf(classOf.get(number) ?? -1)))
  return classes.reduce(
    (sum, { members }, place) => (norms.has(normOf(place)) ? sum + members.length : sum),
    0,
  )
}

/** Whether each of some objects is one of many that are alike, or all but alike to many. */
export const areOfMany = ({ classes, classOf }: Likeness, numbers: readonly number[]): boolean =>
  numbers.every((number) => {
    const own = classes[classOf.get(number) ?? -1]
    return own !== undefined && (own.unlike !== null || own.members.length >= MANY)
  })

/** What belongs to each unit, found once for a model. */
export const belongings = derived((model: Model, section: UnitSection): Belonging =>
  belongingOf(model, section),
)

/** An object with what is said of it, as ascending numbers of statements. */
interface Described {
  readonly number: number
  /** Objects of one kind may be almost alike. */
  readonly kind: string
  readonly statements: readonly number[]
}

/** Objects that are alike. */
type Group = readonly Described[]

function compareAll(model: Model, section: AlikeSection): Likeness {
  const described = describe(model, section)
  const groups = [
    ...groupBy(described, ({ kind, statements }) => `${kind} ${statements.join()}`).values(),
  ]
  const norms = normsOf(groups)
  const unlike = groups.map((group) => unlikeOf(group, groups, norms))
  const told = statementsOfDifferences(model, section, groups, unlike)
  const classOf = new Map<number, number>()
  for (const [place, group] of groups.entries())
    for (const { number } of group) classOf.set(number, place)
  return {
    classOf,
    classes: groups.map((group, place) => ({
      members: group.map(({ number }) => number),
      unlike: told[place] ?? null,
    })),
  }
}

/**
 * Every statement of each object of a section, by its number. Those of a route table are what it says
 * itself, seen from its network.
 */
function eachOf(
  model: Model,
  section: AlikeSection,
  tell: (number: number, statement: Statement) => void,
): void {
  const belonging = belongings(model, unitsOf(section))
  if (section !== 'routeTables') return eachStatement(model, belonging, tell)
  const { routeTables } = model.index
  const ofTable = (_: number, statement: Statement): void => {
    const number = routeTables.get(statement.object.slice('routeTables/'.length))
    if (statement.isOwn && number !== undefined) tell(number, statement)
  }
  eachStatement(model, belonging, ofTable, 'routeTables')
}

/** Whether the objects of a section are compared with their likes. */
export const isAlikeSection = (section: string): section is AlikeSection =>
  (ALIKE_SECTIONS as readonly string[]).includes(section)

const unitsOf = (section: AlikeSection): UnitSection =>
  section === 'routeTables' ? 'networks' : section

/** How many hosts and rules a unit has makes it no other: each counts once. */
const COUNT_ONCE = /^(interfaces|ruleSets)\//

function describe(model: Model, section: AlikeSection): Described[] {
  const belonging = belongings(model, unitsOf(section))
  const statements = new Map<number, number[]>()
  const once = new Map<number, Set<number>>()
  for (const number of model.index[section].values()) statements.set(number, [])
  eachOf(model, section, (number, statement) => {
    const own = statements.get(number)
    if (own === undefined) return
    if (COUNT_ONCE.test(statement.object)) {
      const known = once.get(number) ?? new Set()
      once.set(number, known)
      if (known.has(statement.number)) return
      known.add(statement.number)
    }
    own.push(statement.number)
  })
  return [...statements].map(([number, own]) => ({
    number,
    kind:
      section === 'routeTables'
        ? (belonging.formOf.get(model.tables[number]!.ref) ?? '')
        : belonging.kinds[number]!,
    statements: own.sort((a, b) => a - b),
  }))
}

/** What tells a group from the group it is nearest to, as numbers of statements. */
interface Apart {
  readonly norm: number
  readonly lacks: readonly number[]
  readonly has: readonly number[]
}

function unlikeOf(group: Group, groups: readonly Group[], norms: Norms): Apart | null {
  const [{ kind, statements }] = group as [Described]
  const candidates = (norms.get(kind) ?? [])
    .filter((norm) => groups[norm]!.length >= group.length * OUTNUMBERS)
    .slice(0, MOST_NORMS)
  let nearest: Apart | null = null
  for (const norm of candidates) {
    const apart = difference(norm, groups[norm]![0]!.statements, statements)
    const count = apart.lacks.length + apart.has.length
    const before = nearest ? nearest.lacks.length + nearest.has.length : MOST_DIFFERENCES + 1
    if (count < before && count * 2 <= statements.length) nearest = apart
  }
  return nearest
}

/** The places of groups that are rules, by kind, the largest first. */
type Norms = ReadonlyMap<string, readonly number[]>

function normsOf(groups: readonly Group[]): Norms {
  const made = new Map<string, number[]>()
  for (const [place, group] of groups.entries()) {
    if (group.length < MANY) continue
    const { kind } = group[0]!
    made.set(kind, [...(made.get(kind) ?? []), place])
  }
  for (const places of made.values())
    places.sort((a, b) => groups[b]!.length - groups[a]!.length || a - b)
  return made
}

/** What two ascending lists do not have in common. */
function difference(norm: number, a: readonly number[], b: readonly number[]): Apart {
  const lacks: number[] = []
  const has: number[] = []
  for (let [i, j] = [0, 0]; i < a.length || j < b.length;) {
    if (a[i] === b[j]) [i, j] = [i + 1, j + 1]
    else if (j >= b.length || a[i]! < b[j]!) lacks.push(a[i++]!)
    else has.push(b[j++]!)
  }
  return { norm, lacks, has }
}

/** Differences as statements: what is lacked as the first object that has it says it. */
function statementsOfDifferences(
  model: Model,
  section: AlikeSection,
  groups: readonly Group[],
  unlike: readonly (Apart | null)[],
): (Unlike | null)[] {
  const wanted = new Map<number, Map<number, Statement | null>>()
  const want = (number: number, statements: readonly number[]): void => {
    const own = wanted.get(number) ?? new Map<number, Statement | null>()
    wanted.set(number, own)
    for (const one of statements) own.set(one, null)
  }
  for (const [place, apart] of unlike.entries()) {
    if (apart === null) continue
    want(groups[apart.norm]![0]!.number, apart.lacks)
    for (const { number } of groups[place]!) want(number, apart.has)
  }
  if (wanted.size > 0)
    eachOf(model, section, (number, statement) => {
      const own = wanted.get(number)
      if (own?.has(statement.number)) own.set(statement.number, statement)
    })
  const told = (number: number, statements: readonly number[]): Statement[] =>
    statements.flatMap((one) => wanted.get(number)?.get(one) ?? [])
  return unlike.map(
    (apart, place) =>
      apart && {
        norm: apart.norm,
        lacks: told(groups[apart.norm]![0]!.number, apart.lacks),
        has: new Map(groups[place]!.map(({ number }) => [number, told(number, apart.has)])),
      },
  )
}
