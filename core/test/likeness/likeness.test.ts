import { countKin, differencesOf, likenessOf, type Model } from '../../src/index'
import { modelOf } from '../trace/fixtures'
import { random, type Random } from '../random/random'

type Json = Record<string, unknown>

/** Entries in another order: a document means the same in any. */
const shuffled = (r: Random, object: Json): Json => {
  const left = Object.entries(object)
  const out: Json = {}
  while (left.length > 0) {
    const [[key, value]] = left.splice(r.number(left.length), 1) as [[string, unknown]]
    out[key] = value
  }
  return out
}

/** A word that no other thing of an estate has. */
const names = (r: Random): (() => string) => {
  let number = 0
  return () => `${r.pick(['oak', 'reed', 'fern'])}-${r.number(1000)}-${number++}`
}

interface Spokes {
  readonly model: Model
  /** The id of each spoke’s network, and of its table. */
  readonly networks: readonly string[]
  readonly tables: readonly string[]
}

/**
 * A hub and spokes that are alike but for names, ranges, and how many hosts they have. What `edit`
 * makes of the parts of one spoke is its own.
 */
function spokes(
  r: Random,
  count: number,
  edit: (spoke: number, parts: { routes: unknown[]; side: Json; subnet: Json }) => void,
): Spokes {
  const name = names(r)
  const sections: Record<string, Json> = {
    regions: { north: { zones: ['north-1'] } },
    networks: { hub: { region: 'north', ranges: ['10.0.0.0/16'] } },
    subnets: {},
    interfaces: {},
    routeTables: {},
    peerings: {},
    nats: {},
    ruleSets: { any: { rules: [{ direction: 'out', peers: ['any'] }] } },
  }
  const hubRoutes: unknown[] = []
  const made = Array.from({ length: count }, (_, at) => {
    const [network, table, subnet, peering, nat] = [name(), name(), name(), name(), name()]
    const base = `10.${10 + at}`
    const routes: unknown[] = [
      { to: '10.0.0.0/8', via: { peering } },
      { to: '0.0.0.0/0', via: { nat } },
      { to: `${base}.9.0/24`, via: 'drop' },
    ]
    const side: Json = { network, acceptsForwarded: true }
    const parts: Json = { network, ranges: [`${base}.1.0/24`], routeTable: table, zone: 'north-1' }
    edit(at, { routes, side, subnet: parts })
    sections.networks![network] = { region: 'north', ranges: [`${base}.0.0/16`] }
    sections.subnets![subnet] = parts
    sections.routeTables![table] = { network, routes: Object.values(shuffled(r, { ...routes })) }
    sections.nats![nat] = { network, placement: { subnet }, addresses: [`203.0.113.${at + 1}`] }
    const sides = [side, { network: 'hub' }]
    if (r.chance(50)) sides.reverse()
    sections.peerings![peering] = { a: sides[0], b: sides[1] }
    for (let host = 0; host <= r.number(3); host++)
      sections.interfaces![name()] = {
        subnet,
        addresses: [`${base}.1.${10 + host}`],
        ruleSets: ['any'],
      }
    hubRoutes.push({ to: `${base}.0.0/16`, via: { peering } })
    return { network, table }
  })
  sections.routeTables!['hub-table'] = { network: 'hub', routes: hubRoutes }
  const estate = Object.fromEntries(
    Object.entries(sections).map(([section, objects]) => [section, shuffled(r, objects)]),
  )
  return {
    model: modelOf(estate),
    networks: made.map(({ network }) => network),
    tables: made.map(({ table }) => table),
  }
}

const SEEDS = Array.from({ length: 12 }, (_, at) => at + 1)

test.each(SEEDS)('spokes are alike whatever their names, ranges, order and hosts: %d', (seed) => {
  const r = random(seed)
  const { model, networks, tables } = spokes(r, 9 + r.number(6), () => undefined)
  for (const [section, ids] of [
    ['networks', networks],
    ['routeTables', tables],
  ] as const) {
    const { classOf, classes } = likenessOf(model, section)
    const places = new Set(ids.map((id) => classOf.get(model.index[section].get(id)!)))
    expect(places.size).toBe(1)
    expect(classes[[...places][0]!]!.members).toHaveLength(ids.length)
  }
})

/** Edits of one spoke, with what is told of it. */
const EDITS: readonly (readonly [
  says: string,
  edit: (parts: { routes: unknown[]; side: Json; subnet: Json }) => void,
])[] = [
  ['no route to 10.0.0.0/8 over peering', ({ routes }) => routes.shift()],
  [
    'route to 10.0.0.0/8 over drop, not peering',
    ({ routes }) => {
      routes[0] = { to: '10.0.0.0/8', via: 'drop' }
    },
  ],
  [
    'route to 198.51.100.0/24 over drop',
    ({ routes }) => {
      routes.push({ to: '198.51.100.0/24', via: 'drop' })
    },
  ],
  [
    'acceptsForwarded false of its peering, not true',
    ({ side }) => {
      side.acceptsForwarded = false
    },
  ],
  [
    'ruleSets any',
    ({ subnet }) => {
      subnet.ruleSets = ['any']
    },
  ],
]

test.each(
  EDITS.flatMap(([says, edit]) => SEEDS.slice(0, 4).map((seed) => [says, seed, edit] as const)),
)('one spoke that differs is told by its difference: %s (%d)', (says, seed, edit) => {
  const r = random(seed)
  const count = 9 + r.number(6)
  const odd = r.number(count)
  const { model, networks } = spokes(r, count, (spoke, parts) => {
    if (spoke === odd) edit(parts)
  })
  const likeness = likenessOf(model, 'networks')
  const number = model.index.networks.get(networks[odd]!)!
  const { members, unlike } = likeness.classes[likeness.classOf.get(number)!]!
  expect(members).toEqual([number])
  expect(likeness.classes[unlike!.norm]!.members).toHaveLength(count - 1)
  const differences = differencesOf(unlike!, number)
  expect(differences).toHaveLength(1)
  expect(differences[0]!.says).toContain(says)
  expect(countKin(likeness, [number])).toBe(count)
})

test('few objects make no rule that another could differ from', () => {
  const { model, networks } = spokes(random(1), 5, (spoke, { routes }) => {
    if (spoke === 0) routes.shift()
  })
  const { classes, classOf } = likenessOf(model, 'networks')
  expect(classes[classOf.get(model.index.networks.get(networks[0]!)!)!]!.unlike).toBeNull()
})
