import { longestUpright } from '~/views/map/upright'
import {
  compile,
  estateGraph,
  hopMemo,
  exitsOf,
  readEstate,
  trace,
  type Branch,
  type Model,
} from '@salt-trail/core'
import ELK from 'elkjs'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { inColumns, insideOf, layoutRequest, placed, type PlacedMap } from '~/views/map/layout'
import { generateEstate } from '../../scripts/generator/estate'
import { SIZES } from '../../scripts/generator/plan'
import { COLUMNS } from '~/views/exits/cells'
import { changedLines, exitLines, pathOf, placesOf, traceLines } from '~/views/map/way-lines'

function demo(): Model {
  const folder = join(__dirname, '../../demo')
  const files = readdirSync(folder).filter((name) => name.endsWith('.yaml'))
  return compile(
    readEstate(files.map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') })))
      .estate!,
  )
}
const model = demo()
const graph = estateGraph(model)
const lay = async (): Promise<PlacedMap> =>
  placed(graph, await new ELK().layout(layoutRequest(graph)))
const home = (ref: string): string =>
  ref.startsWith('interfaces/')
    ? `subnets/${model.subnets[model.interfaces[model.index.interfaces.get(ref.slice(11))!]!.subnet]!.id}`
    : ref

test('the same estate lies the same way every time, its columns from the outside to the networks, no mark over another', async () => {
  const map = await lay()
  expect(await lay()).toEqual(map)
  const leftmost = (column: string): number =>
    Math.min(...map.nodes.filter(({ node }) => node.column === column).map(({ x }) => x))
  expect(['outside', 'doors', 'between', 'networks'].map(leftmost)).toEqual(
    ['outside', 'doors', 'between', 'networks'].map(leftmost).sort((a, b) => a - b),
  )
  for (const a of map.nodes) {
    for (const b of map.nodes) {
      if (a === b) continue
      const apart =
        a.x + a.width <= b.x ||
        b.x + b.width <= a.x ||
        a.y + a.height <= b.y ||
        b.y + b.height <= a.y
      expect([a.node.ref, b.node.ref, apart]).toEqual([a.node.ref, b.node.ref, true])
    }
    for (const chip of a.chips)
      expect(
        chip.x >= a.x &&
          chip.x + chip.width <= a.x + a.width &&
          chip.y + chip.height <= a.y + a.height,
      ).toBe(true)
  }
})

test('so many marks that their joins are not routed stand in columns, about as a screen is wide, none over another', () => {
  const { estate } = readEstate([
    { name: 'M.json', text: JSON.stringify(generateEstate(SIZES.M, 1).estate) },
  ])
  const large = estateGraph(compile(estate!))
  expect(inColumns(graph)).toBeNull()
  const map = placed(large, inColumns(large)!)
  expect(map.nodes).toHaveLength(large.nodes.length)
  expect(map.width / map.height).toBeGreaterThan(1)
  expect(map.width / map.height).toBeLessThan(3)
  const places = map.nodes.map(({ x, y, width, height }) => ({
    x,
    y,
    right: x + width,
    bottom: y + height,
  }))
  const overlaps = places.filter((a, at) =>
    places
      .slice(at + 1)
      .some((b) => a.x < b.right && b.x < a.right && a.y < b.bottom && b.y < a.bottom),
  )
  expect(overlaps).toEqual([])
})

test('a network’s subnets stand in columns by zone, without repeating its name', () => {
  const { chips, zones } = insideOf(graph.nodes.find(({ ref }) => ref === 'networks/ticketing')!)
  expect(zones.map(({ name }) => name)).toEqual(['north-1', 'north-2'])
  expect(chips.map(({ name }) => name)).toContain('web-1')
})

test('a way lies along what joins the marks it passes, and ends where packets are lost', async () => {
  const map = await lay()
  const places = placesOf(graph, map)
  const answer = trace(model, {
    from: 'interface:roster-1',
    to: 'interface:tide-gauge-1',
    protocol: 'tcp',
    port: 8443,
    continue: true,
  }) as Branch
  const [there, back] = traceLines(answer, home)
  expect(there!.refs).toContain('firewalls/harbour-wall')
  expect([there!.isLost, back!.isLost]).toEqual([false, true])
  const points = pathOf(there!, places)
  const wall = places.boxOf('firewalls/harbour-wall')!
  expect(
    points.some(
      ({ x, y }) => x > wall.x && x < wall.x + wall.width && y > wall.y && y < wall.y + wall.height,
    ),
  ).toBe(true)
  // By the peering it uses, not by any other join of the two networks.
  const peering = map.edges.find(({ edge }) => edge.by === 'peerings/crew-hub')!
  expect(points.some(({ x }) => Math.abs(x - (peering.points[1]!.x - 2.5)) < 0.01)).toBe(true)
})

const row = (id: string) => exitsOf(model, model.subnets[model.index.subnets.get(id)!]!, hopMemo())

test('no way crosses a subnet that it is not about', async () => {
  const map = await lay()
  const places = placesOf(graph, map)
  const chips = map.nodes.flatMap((one) => one.chips)
  const hosts = [...model.index.interfaces.keys()]
  const traced = hosts.flatMap((from) =>
    hosts.flatMap((to) => {
      const answer = trace(model, {
        ...{ from: `interface:${from}`, to: `interface:${to}` },
        port: 443,
      })
      return 'forward' in answer ? traceLines(answer, home) : []
    }),
  )
  const leaving = [...model.index.subnets.keys()].flatMap((id) =>
    COLUMNS.flatMap(({ key }) => exitLines(`subnets/${id}`, row(id)[key], 'internet')),
  )
  const crossed = [...traced, ...leaving].flatMap((line) => {
    const points = pathOf(line, places)
    return points.slice(1).flatMap((b, at) => {
      const a = points[at]!
      const [left, right] = [Math.min(a.x, b.x), Math.max(a.x, b.x)]
      const [top, bottom] = [Math.min(a.y, b.y), Math.max(a.y, b.y)]
      return chips
        .filter(({ ref }) => !line.refs.includes(ref))
        .filter(
          ({ x, y, width, height }) =>
            left < x + width - 1 && right > x + 1 && top < y + height - 1 && bottom > y + 1,
        )
        .map(({ ref }) => `${line.refs.join(' ')} crosses ${ref}`)
    })
  })
  expect(traced.length).toBeGreaterThan(100)
  expect([...new Set(crossed)]).toEqual([])
})

test('who is on the internet is joined with it, beside the marks', async () => {
  const map = await lay()
  const joins = map.edges.filter(({ edge }) => edge.to.startsWith('parties/'))
  expect(joins.map(({ edge }) => `${edge.from} ${edge.to}`)).toEqual([
    'internet parties/fuel-broker',
    'internet parties/customs-broker',
  ])
  for (const { points } of joins)
    expect(Math.min(...points.map(({ x }) => x))).toBeLessThan(
      Math.min(...map.nodes.map(({ x }) => x)),
    )
})

test('ways out end at the internet where they get there, and at once where they do not', () => {
  expect(
    exitLines('subnets/hub-jump', row('hub-jump').internet, 'internet').map(({ refs }) =>
      refs.at(-1),
    ),
  ).toEqual(['internet', 'internet'])
  expect(
    exitLines('subnets/ticketing-app-2', row('ticketing-app-2').internet, 'internet').every(
      ({ isLost, refs }) => isLost && refs.at(-1) !== 'internet',
    ),
  ).toBe(true)
  expect(exitLines('subnets/hub-jump', row('hub-jump').sameNetwork)).toEqual([])
})

test('of the ways of two states only those that differ are drawn, each in the lane of its state', () => {
  const [app, lost] = [row('ticketing-app-1'), row('ticketing-app-2')]
  expect(changedLines({ subnet: 'ticketing-app-1', before: app, now: app })).toEqual([])
  const lines = changedLines({ subnet: 'ticketing-app-2', before: lost, now: app })
  const of4 = (lane: string) =>
    lines.filter((line) => line.lane === lane).map(({ kind, refs }) => `${kind} ${refs.join(' ')}`)
  expect(of4('before')).toContain('lost subnets/ticketing-app-2')
  expect(of4('now')).toContain(
    'translated subnets/ticketing-app-2 nats/nat-ticketing gateways/ticketing-door internet',
  )
  expect(changedLines({ subnet: 'x', before: null, now: app }).every((l) => l.lane === 'now')).toBe(
    true,
  )
})

test('a join is named along its longest upright part, where that has room', () => {
  const line = (...points: [number, number][]) => points.map(([x, y]) => ({ x, y }))
  expect(longestUpright(line([0, 0], [20, 0], [20, 100], [0, 100]))).toEqual({
    x: 20,
    top: 0,
    height: 100,
  })
  expect(longestUpright(line([0, 0], [20, 0], [20, 30], [40, 30], [40, 200]))).toEqual({
    ...{ x: 40, top: 30, height: 170 },
  })
  expect(longestUpright(line([0, 0], [20, 0], [20, 40]))).toBeNull()
})
