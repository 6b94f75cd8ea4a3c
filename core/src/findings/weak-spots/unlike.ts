import { attributeOf, type Root } from '../root'
import type { Route } from '../../format/estate'
import { splitRef } from '../../format/ref'
import { belongings, likenessOf, type AlikeSection, type Likeness } from '../../likeness/likeness'
import { differencesOf, type Distinction } from '../../likeness/words'
import type { Model } from '../../model/model'
import { targetOf, targetRef, viaText } from '../../model/targets'
import { finding, type Finding, type ToldFinding } from '../finding'
import { listText, nameOf } from '../survey'

/** Likes are asked for table by table first, so that a route is told where it stands. */
const SECTIONS: readonly AlikeSection[] = ['routeTables', 'subnets', 'networks']

const WORDS: Readonly<Record<AlikeSection, string>> = {
  networks: 'networks',
  subnets: 'subnets',
  routeTables: 'route tables',
}

/**
 * Objects that differ from the many they are otherwise like, where no other finding explains it:
 * none has a code for them that their likes do not have. Looked for once all other findings are
 * known. Costs two passes over the estate for each kind of object, and one over the findings.
 */
export function findUnlike(model: Model, findings: readonly ToldFinding[]): Finding[] {
  const told = new Set<string>()
  return SECTIONS.flatMap((section) => {
    const likeness = likenessOf(model, section)
    if (likeness.classes.every(({ unlike }) => unlike === null)) return []
    const codes = codesBy(model, section, findings)
    const found = unlikeIn(model, section, likeness, codes).filter(({ differences }) =>
      differences.some((one) => !told.has(keyOf(one))),
    )
    for (const { differences } of found) for (const one of differences) told.add(keyOf(one))
    return found.map(({ finding }) => finding)
  })
}

/** A difference by the object that says it: tables and their networks differ by the same one. */
const keyOf = ({ has, lacks, says }: Distinction): string =>
  `${says} ${has?.object ?? ''} ${has === null ? (lacks?.number ?? '') : ''}`

interface Outlier {
  readonly finding: Finding
  readonly differences: readonly Distinction[]
}

function unlikeIn(
  model: Model,
  section: AlikeSection,
  { classes }: Likeness,
  codes: Codes,
): Outlier[] {
  const objects = sectionOf(model, section)
  return classes.flatMap(({ members, unlike }) => {
    if (unlike === null) return []
    const likes = classes[unlike.norm]!.members
    const usual = usualOf(likes, codes.around)
    const plain = likes.find((one) => !hasMore(codes.around.get(one), usual)) ?? likes[0]!
    const like = objects[plain]!.ref
    return members.flatMap((number): Outlier[] => {
      const differences = differencesOf(unlike, number)
      const isTold = (own: Distinction): boolean =>
        own.has !== null &&
        hasMore(codes.of.get(own.has.object), codes.of.get(usualOwner(own, like)))
      if (
        !isOdd(differences) ||
        hasMore(codes.around.get(number), usual) ||
        differences.some(isTold)
      )
        return []
      const { ref } = objects[number]!
      const text = listText(differences.map(({ says }) => says))
      return [
        {
          differences,
          finding: finding({
            code: 'odd-unlike',
            severity: 'low',
            anchor: ref,
            objects: [ref, ...differences.map(({ has }) => has?.object), like],
            sentence: `${nameOf(ref)} differs from ${likes.length} ${WORDS[section]} that it is otherwise like, such as ${nameOf(like)}: ${text}.`,
            root: rootOf(model, ref, differences[0]!),
            facts: differences.map(({ says }) => says),
          }),
        },
      ]
    })
  })
}

/** The object of a like that says what stands in the place of a difference. */
const usualOwner = ({ lacks }: Distinction, like: string): string => lacks?.object ?? like

/** What is told of more than half of some objects. */
function usualOf(
  numbers: readonly number[],
  around: ReadonlyMap<number, ReadonlySet<string>>,
): ReadonlySet<string> {
  const counts = new Map<string, number>()
  for (const number of numbers)
    for (const code of around.get(number) ?? []) counts.set(code, (counts.get(code) ?? 0) + 1)
  return new Set([...counts].flatMap(([code, count]) => (count * 2 > numbers.length ? code : [])))
}

const sectionOf = (model: Model, section: AlikeSection) =>
  section === 'routeTables' ? model.tables : model[section]

/** What is declared another kind of thing is no odd one; neither is one with more of its hosts. */
function isOdd(differences: readonly Distinction[]): boolean {
  const isDeclared = differences.some(({ has, lacks }) => DECLARED.has((has ?? lacks)!.path))
  return !isDeclared && differences.some((one) => isOfWays(one))
}

const DECLARED = new Set(['role', 'behaviour', 'region', 'zone', 'kind', 'style'])
const WHOLE = /^(interfaces|frontends|nats|endpoints|nameZones|parties|prefixLists|groups)\//

/** Whether a difference is about routes, rules and settings, not about what else stands there. */
function isOfWays({ has, lacks }: Distinction): boolean {
  if (has !== null && lacks !== null) return true
  const { object, path } = (has ?? lacks)!
  return !WHOLE.test(object) && path !== 'ranges' && path !== 'destinationTranslation'
}

function rootOf(model: Model, ref: string, { has, lacks }: Distinction): Root {
  const statement = (has ?? lacks)!
  const object = has?.isOwn ? has.object : ref
  if (statement.path !== 'routes') return attributeOf(object, statement.path || 'settings')
  const { via } = statement.value as Route
  const address = typeof via === 'object' ? via.address : undefined
  const part = targetRef(targetOf(model.index, via)) ?? address ?? viaText(via)
  return { kind: has === null ? 'missing-route' : 'route', object, part }
}

/** The codes and roots of findings, by what they name. */
interface Codes {
  /** By an object. */
  readonly of: ReadonlyMap<string, ReadonlySet<string>>
  /** By the number of an object of a section: those that name anything which belongs to it. */
  readonly around: ReadonlyMap<number, ReadonlySet<string>>
}

/** Whether something is told of one thing that is not told of another. */
const hasMore = (codes: ReadonlySet<string> = NONE, usual: ReadonlySet<string> = NONE): boolean =>
  [...codes].some((code) => !usual.has(code))
const NONE: ReadonlySet<string> = new Set()

function codesBy(model: Model, section: AlikeSection, findings: readonly ToldFinding[]): Codes {
  const of = new Map<string, Set<string>>()
  const around = new Map<number, Set<string>>()
  const put = <K>(map: Map<K, Set<string>>, key: K, code: string): void => {
    const known = map.get(key)
    if (known) known.add(code)
    else map.set(key, new Set([code]))
  }
  const numbersOf = whoseIs(model, section)
  const tell = (ref: string, what: string): void => {
    put(of, ref, what)
    for (const number of numbersOf(ref)) put(around, number, what)
  }
  for (const { code, severity, objects, root } of findings) {
    for (const ref of objects) tell(ref, `${code} ${severity}`)
    tell(root.object, `root ${root.kind}`)
  }
  return { of, around }
}

/** The numbers of the objects of a section that something named belongs to. */
function whoseIs(model: Model, section: AlikeSection): (ref: string) => readonly number[] {
  if (section !== 'routeTables') {
    const { unitOf } = belongings(model, section)
    return (ref) => {
      const unit = unitOf.get(ref)
      return unit === undefined ? [] : [unit]
    }
  }
  const { unitOf } = belongings(model, 'subnets')
  return (ref) => {
    const [of, id] = splitRef(ref)
    const own = of === 'routeTables' ? (model.index.routeTables.get(id) ?? -1) : -1
    const subnet = unitOf.get(ref)
    const used = subnet === undefined ? -1 : model.subnets[subnet]!.table
    return [own, used].filter((number) => number >= 0)
  }
}
