import fc from 'fast-check'
import {
  analyseShare,
  compile,
  exitsOf,
  findAll,
  hopMemo,
  joinShares,
  type Estate,
} from '../../src/index'
import { estateWithPromises } from '../random/promises'
import { runs } from '../random/runs'

const quietly = (): boolean => false

/** The shares of an estate as several processes find them, each knowing nothing of the others. */
const sharesOf = (estate: Estate, of: number) =>
  Array.from({ length: of }, (_, number) =>
    analyseShare(compile(estate), hopMemo(), { number, of }, quietly)!,
  )

test('shares found apart and joined say what a whole analysis says', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 2 ** 31 }),
      fc.integer({ min: 2, max: 7 }),
      (seed, of) => {
        const estate = estateWithPromises(seed)
        const model = compile(estate)
        const shares = sharesOf(estate, of)
        expect(shares.flatMap(({ rows }) => rows)).toEqual(
          [...model.index.subnets.values()].map((index) => exitsOf(model, model.subnets[index]!)),
        )
        expect(joinShares(model, shares)).toEqual(findAll(model))
      },
    ),
    {
      numRuns: runs(5),
      seed: Number(process.env.SALT_TRAIL_SEED ?? 72),
    },
  )
})

test('more shares than there is to look at leave some of them empty', () => {
  const estate = estateWithPromises(3)
  const model = compile(estate)
  const shares = sharesOf(estate, 40)
  expect(shares.some(({ rows }) => rows.length === 0)).toBe(true)
  expect(joinShares(model, shares)).toEqual(findAll(model))
})

test('whoever is asked how far a share is can end it', () => {
  const estate = estateWithPromises(5)
  const asked: string[] = []
  const share = analyseShare(
    compile(estate),
    hopMemo(),
    { number: 1, of: 3 },
    (about) => asked.push(about) > 2,
  )
  expect([share, asked.length]).toEqual([null, 3])
})
