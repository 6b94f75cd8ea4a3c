import { writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { generateEstate } from './estate'
import { SIZES, type SizeName } from './plan'
import { generateShape, SHAPES, type ShapeName } from './shapes'

/**
 * `npm run generate -- --size L --seed 1 --out estate.json`, or `--shape star --subnets 1000`: an
 * estate for measuring, and beside it what was planted in it.
 */
const { values } = parseArgs({
  options: {
    size: { type: 'string', default: 'M' },
    seed: { type: 'string', default: '1' },
    shape: { type: 'string' },
    subnets: { type: 'string', default: '1000' },
    out: { type: 'string' },
  },
})
const size = SIZES[values.size.toUpperCase() as SizeName]
const shape = values.shape as ShapeName | undefined
if (!size || !values.out || (shape !== undefined && !Object.hasOwn(SHAPES, shape))) {
  console.error(
    `npm run generate -- --size ${Object.keys(SIZES).join('|')} [--seed 1] --out estate.json\n` +
      `npm run generate -- --shape ${Object.keys(SHAPES).join('|')} [--subnets 1000] --out estate.json`,
  )
  process.exit(2)
}
const { estate, planted } =
  shape === undefined
    ? generateEstate(size, Number(values.seed))
    : generateShape(shape, Number(values.subnets))
writeFileSync(values.out, JSON.stringify(estate))
writeFileSync(
  `${values.out.replace(/\.json$/, '')}.planted.json`,
  `${JSON.stringify(planted, null, 1)}\n`,
)
