import { candidatesOf, compile, packetsAmong } from '../../src/index'
import { CHANGES } from '../../../scripts/bench/changes'
import { generateEstate } from '../../../scripts/generator/estate'
import { SIZES } from '../../../scripts/generator/plan'
import { random } from '../random/random'
import { estateOfJson } from '../random/read'
import { texts } from './row-texts'

// Random estates have few hosts that are alike; those of the generator have many.
const estate = estateOfJson(generateEstate({ ...SIZES.S, networks: 2 }, 1).estate)

test.each(CHANGES)(
  'hosts that fare alike have the rows together that they have alone: one changed %s',
  (_, change) => {
    const before = compile(estate)
    const r = random(45)
    let rows = 0
    for (let time = 0; time < 2; time++) {
      const pair = { before, after: compile(change(estate, r), before) }
      const candidates = candidatesOf(pair)
      const alone = candidates.flatMap(({ sender, destinations }) =>
        (sender.members ?? [sender]).map((one) => ({ sender: one, destinations })),
      )
      expect(alone.length).toBeGreaterThan(candidates.length + 20)
      const found = packetsAmong(pair, candidates)
      expect(texts(found)).toEqual(texts(packetsAmong(pair, alone)))
      rows += found.rows.length
    }
    expect(rows).toBeGreaterThan(0)
  },
)
