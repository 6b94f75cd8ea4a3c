import { writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { generateEstate } from './estate'
import { SIZES, type SizeName } from './plan'

/**
 * `npm run generate -- --size L --seed 1 --out estate.json`: an estate for measuring, and beside it
 * what was planted in it.
 */
const { values } = parseArgs({
  options: {
    size: { type: 'string', default: 'M' },
    seed: { type: 'string', default: '1' },
    out: { type: 'string' },
  },
})
const size = SIZES[values.size.toUpperCase() as SizeName]
if (!size || !values.out) {
  console.error(
    `npm run generate -- --size ${Object.keys(SIZES).join('|')} [--seed 1] --out estate.json`,
  )
  process.exit(2)
}
const { estate, planted } = generateEstate(size, Number(values.seed))
writeFileSync(values.out, JSON.stringify(estate))
writeFileSync(
  `${values.out.replace(/\.json$/, '')}.planted.json`,
  `${JSON.stringify(planted, null, 1)}\n`,
)
