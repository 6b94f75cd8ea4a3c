import fc from 'fast-check'
import { applyPatch } from 'rfc6902'
import { invert, merge, rebase, writeJson, type Estate } from '../../src/index'
import { sameJson } from '../../src/changes/document'
import { estateWithPromises } from '../random/promises'
import { random } from '../random/random'
import { made } from './made'
import { randomChange } from './random-change'
import { runs } from '../random/runs'

const json = (estate: Estate): unknown => JSON.parse(writeJson(estate))

const seeds = fc.integer({ min: 0, max: 1_000_000 })
const law = (name: string, holds: (seed: number) => void): void =>
  test(name, () => fc.assert(fc.property(seeds, holds), { numRuns: runs(40), seed: 11 }))

law('apply then invert gives the same JSON value, order of lists included', (seed) => {
  const estate = estateWithPromises(seed)
  const change = randomChange(estate, random(seed))
  const undone = invert(estate, change)
  if (!undone.ok) throw new Error(undone.failure.message)
  expect(sameJson(json(made(made(estate, change), undone.change)), json(estate))).toBe(true)
})

law('apply does what another implementation of RFC 6902 does', (seed) => {
  const estate = estateWithPromises(seed)
  const change = randomChange(estate, random(seed))
  const document = json(estate)
  expect(applyPatch(document, JSON.parse(JSON.stringify(change)) as never[])).toEqual(
    change.map(() => null),
  )
  expect(sameJson(json(made(estate, change)), document)).toBe(true)
})

law('merge then apply is apply twice', (seed) => {
  const estate = estateWithPromises(seed)
  const first = randomChange(estate, random(seed))
  const between = made(estate, first)
  const second = randomChange(between, random(seed + 1))
  const merged = merge(first, second)
  expect(merged.length).toBeLessThanOrEqual(first.length + second.length)
  expect(sameJson(json(made(estate, merged)), json(made(between, second)))).toBe(true)
})

/** The object of a section that an operation is inside of. */
const objectOf = (path: string): string => path.split('/').slice(0, 3).join('/')

law('rebase of changes that touch different things commutes', (seed) => {
  const estate = estateWithPromises(seed)
  const mine = randomChange(estate, random(seed))
  const touched = new Set(mine.map(({ path }) => objectOf(path)))
  const theirs = randomChange(estate, random(seed + 1), ({ path }) => !touched.has(objectOf(path)))
  const [after, before] = [rebase(estate, mine, theirs), rebase(estate, theirs, mine)]
  if (!after.ok || !before.ok) throw new Error('a change that was made cannot be made')
  expect([...after.conflicts, ...before.conflicts]).toEqual([])
  const one = made(made(estate, theirs), after.change)
  const other = made(made(estate, mine), before.change)
  expect(sameJson(json(one), json(other))).toBe(true)
})

law('whatever both touch, a rebased change can be made after the other', (seed) => {
  const estate = estateWithPromises(seed)
  const [mine, theirs] = [
    randomChange(estate, random(seed)),
    randomChange(estate, random(seed + 1)),
  ]
  const after = rebase(
    estate,
    mine.filter(({ op }) => op !== 'test'),
    theirs,
  )
  if (!after.ok) throw new Error(after.failure.message)
  made(made(estate, theirs), after.change)
  for (const { operation } of after.conflicts) expect(mine).toContainEqual(operation)
})
