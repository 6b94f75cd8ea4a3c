import { compile, findAll, type Finding } from '../../src/index'
import { generateShape, SHAPES, type ShapeName } from '../../../scripts/generator/shapes'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

/**
 * The same fault is the same finding, whatever the side of a peering, the order of objects, or the
 * names (law 3 of design part 4.1).
 */
type Json = Record<string, unknown>

/** What a finding says, but for which of several equal things it names as an example. */
const faceOf = ({ code, severity, anchor, root }: Finding): string =>
  `${code} ${severity} ${anchor} by ${root.kind} ${root.object}`
const findingsOf = (estate: Json): string[] =>
  findAll(compile(estateOfJson(estate)))!
    .findings.map(faceOf)
    .sort()

/** The same estate with the two sides of every peering swapped. */
const mirrored = (estate: Json): Json => ({
  ...estate,
  peerings: Object.fromEntries(
    Object.entries((estate.peerings ?? {}) as Record<string, Json>).map(
      ([id, { a, b, ...rest }]) => [id, { ...rest, a: b, b: a }],
    ),
  ),
})

const SECTIONS = [
  'networks',
  'subnets',
  'interfaces',
  'routeTables',
  'gateways',
  'nats',
  'peerings',
  'ruleSets',
] as const
type Renamed = (typeof SECTIONS)[number]

/** The same estate with the objects of most sections in the other order. */
const turned = (estate: Json): Json => ({
  ...estate,
  ...Object.fromEntries(
    SECTIONS.flatMap((section) =>
      estate[section]
        ? [[section, Object.fromEntries(Object.entries(estate[section]).reverse())]]
        : [],
    ),
  ),
})

/** By the key of an attribute: the section that its value names an object of. */
const NAMED: Readonly<Record<string, Renamed>> = {
  ...(Object.fromEntries(SECTIONS.map((section) => [section, section])) as object),
  network: 'networks',
  linkedTo: 'networks',
  subnet: 'subnets',
  interface: 'interfaces',
  targets: 'interfaces',
  routeTable: 'routeTables',
  defaultRouteTable: 'routeTables',
  gateway: 'gateways',
  learn: 'gateways',
  nat: 'nats',
  peering: 'peerings',
  ruleSet: 'ruleSets',
  boundary: 'ruleSets',
  localRules: 'ruleSets',
}

/** New names, in the opposite order of the old ones. */
function renaming(estate: Json): (text: string) => string {
  const names = new Map<string, string>()
  for (const section of SECTIONS)
    Object.keys((estate[section] ?? {}) as object)
      .sort()
      .reverse()
      .forEach((id, at) => names.set(`${section}/${id}`, `${section}/${1000 + at}-${id}-new`))
  return (text) => names.get(text) ?? text
}

function renamed(estate: Json): Json {
  const rename = renaming(estate)
  const within = (key: string, value: unknown): unknown => {
    if (typeof value === 'string') {
      const section = NAMED[key]
      return section ? rename(`${section}/${value}`).replace(`${section}/`, '') : rename(value)
    }
    if (Array.isArray(value)) return value.map((one) => within(key, one))
    if (typeof value !== 'object' || value === null) return value
    return Object.fromEntries(
      Object.entries(value).map(([inner, one]) => [
        inner,
        // The sides of a routed firewall are labels, whose values name interfaces.
        within(key === 'interfaces' ? key : inner, one),
      ]),
    )
  }
  return Object.fromEntries(
    Object.entries(estate).map(([section, objects]) => {
      if (typeof objects !== 'object' || objects === null || Array.isArray(objects))
        return [section, within('', objects)]
      return [
        section,
        Object.fromEntries(
          Object.entries(objects).map(([id, object]) => [
            rename(`${section}/${id}`).replace(`${section}/`, ''),
            section === 'groups' ? groupOf(rename, object as Json) : within('', object),
          ]),
        ),
      ]
    }),
  )
}

const groupOf = (rename: (text: string) => string, group: Json): Json => {
  const named = (ids: unknown): unknown =>
    Array.isArray(ids)
      ? ids.map((id) => rename(`${group.section as string}/${id}`).replace(/^[^/]*\//, ''))
      : ids
  // A condition on names asks for the same part of the new ones.
  const where = group.where as { readonly name?: string } | undefined
  const isRenamed = (SECTIONS as readonly string[]).includes(group.section as string)
  const renamedWhere =
    isRenamed && where?.name !== undefined ? { ...where, name: `*-${where.name}-new` } : where
  return {
    ...group,
    members: named(group.members),
    except: named(group.except),
    where: renamedWhere,
  }
}

const withoutNulls = (estate: Json): Json => JSON.parse(JSON.stringify(estate)) as Json

function holds(estate: Json, { inAnyOrder }: { inAnyOrder: boolean }): void {
  const found = findingsOf(estate)
  expect(findingsOf(mirrored(estate))).toEqual(found)
  if (inAnyOrder) expect(findingsOf(turned(estate))).toEqual(found)
  const rename = renaming(estate)
  const expected = found
    .map((face) =>
      face
        .split(' ')
        .map((word) => rename(word))
        .join(' '),
    )
    .sort()
  expect(findingsOf(withoutNulls(renamed(estate)))).toEqual(expected)
}

test.each(Array.from({ length: runs(5) }, (_, at) => at + 1))(
  'mirrored and renamed, the random estate %d has the same findings',
  (seed) => holds(randomEstate(seed).estate, { inAnyOrder: false }),
)

test.each(Object.keys(SHAPES).filter((name) => name !== 'rule-heavy') as ShapeName[])(
  'mirrored, renamed and in another order, the shape %s has the same findings',
  (name) =>
    holds(generateShape(name, name === 'chains' ? 20 : 40).estate as Json, { inAnyOrder: true }),
)
