import { analyse, compile, readEstate } from '@salt-trail/core'
import { generateEstate } from '../generator/estate'
import { SIZES } from '../generator/plan'

// Analyses an estate in this process, with nothing to do with any other; prints how long it took,
// in milliseconds.
const model = compile(
  readEstate([{ name: 'made.json', text: JSON.stringify(generateEstate(SIZES.M, 1).estate) }])
    .estate!,
)
const start = performance.now()
analyse(model, { progress: () => false, exits: () => undefined, findings: () => undefined })
console.log(Math.round(performance.now() - start))
