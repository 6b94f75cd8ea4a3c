import { compile, findAll, readEstate, rootCauses, type Estate } from '@salt-trail/core'
import { generateEstate } from '../../scripts/generator/estate'
import { SIZES } from '../../scripts/generator/plan'
import { generateShape, SHAPES, type ShapeName } from '../../scripts/generator/shapes'

const read = (estate: object): { estate: Estate | null; errors: number } => {
  const { estate: found, problems } = readEstate([
    { name: 'made.json', text: JSON.stringify(estate) },
  ])
  return {
    estate: found,
    errors: problems.filter((problem) => problem.severity === 'error').length,
  }
}
const sum = (counts: Iterable<number>): number => [...counts].reduce((a, b) => a + b, 0)

test('an estate of size M has what the design says of it, and nothing wrong', () => {
  const { estate, errors } = read(generateEstate(SIZES.M, 1).estate)
  expect(errors).toBe(0)
  expect(estate!.subnets.size).toBe(1000)
  expect(estate!.routeTables.size).toBe(300)
  expect(sum([...estate!.routeTables.values()].map((table) => table.routes!.length))).toBe(15_000)
  expect(
    sum([...estate!.ruleSets.values()].map((set) => set.rules!.length)),
  ).toBeGreaterThanOrEqual(20_000)
})

test('an estate of size S has thirty subnets', () =>
  expect(read(generateEstate(SIZES.S, 1).estate)).toMatchObject({
    errors: 0,
    estate: { subnets: { size: 30 } },
  }))

test('a seed makes the same estate each time, another seed another', () => {
  const made = (seed: number): string => JSON.stringify(generateEstate(SIZES.S, seed))
  expect(made(3)).toBe(made(3))
  expect(made(3)).not.toBe(made(4))
})

test('every planted fault names an object that is there', () => {
  const { estate, planted } = generateEstate(SIZES.M, 2)
  expect(new Set(planted.map(({ fault }) => fault)).size).toBeGreaterThan(3)
  for (const { object } of planted) {
    const [section, id] = object.split('/') as [string, string]
    expect((estate as Record<string, Record<string, unknown>>)[section]).toHaveProperty([id])
  }
})

describe.each(Object.keys(SHAPES) as ShapeName[])('the shape %s', (name) => {
  // A row of forwarders costs as many subnets of other shapes.
  const size = name === 'chains' ? 100 : 200
  const { estate, planted } = generateShape(name, size)
  const found = read(estate)

  test('is valid, of the size that was asked for, with three kinds of faults', () => {
    expect(found.errors).toBe(0)
    const subnets = found.estate!.subnets.size * (name === 'rule-heavy' ? 5 : 1)
    expect(subnets).toBeGreaterThan(size * 0.9)
    expect(subnets).toBeLessThan(size * 1.1)
    expect(new Set(planted.map(({ fault }) => fault)).size).toBe(3)
  })

  test('its faults are told in at most ten entries', () => {
    const model = compile(found.estate!)
    const { findings } = findAll(model)!
    expect(rootCauses(model, findings).length).toBeLessThanOrEqual(10)
    expect(findings.length).toBeGreaterThan(0)
  })
})
