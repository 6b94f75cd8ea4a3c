import fc from 'fast-check'
import { changeBetween, filesAfter, readEstate, writeYaml, type Change } from '../../src/index'
import { made } from '../changes/made'
import { randomChange } from '../changes/random-change'
import { estateWithPromises } from '../random/promises'
import { random } from '../random/random'
import { runs } from '../random/runs'

const files = [
  {
    name: 'a.yaml',
    text: `# The harbour.
format: salt-trail/1
name: Harbour
networks:
  quay: { ranges: [10.1.0.0/16] } # wide enough
routeTables:
  # Left empty on purpose.
  plain: { network: quay }
  out:
    network: quay
    routes:
      - { to: 192.0.2.0/24, via: drop } # given back
      - { to: 0.0.0.0/0, via: drop }
`,
  },
  {
    name: 'b.yaml',
    text: `subnets:
  web: { network: quay, ranges: [10.1.1.0/24] } # the web
  app: { network: quay, ranges: [10.1.2.0/24] }
`,
  },
]
const before = readEstate(files).estate!
const after = (change: Change): string[] | undefined =>
  filesAfter(files, before, made(before, change))?.map(({ text }) => text)

test('what was edited stands where it stood, and every comment is kept', () => {
  const [a, b] = after([
    { op: 'replace', path: '/routeTables/out/routes/1/via', value: 'internet' },
    { op: 'add', path: '/subnets/web/routeTable', value: 'out' },
  ])!
  expect(a).toContain('- { to: 0.0.0.0/0, via: internet }')
  for (const comment of ['# The harbour.', '# wide enough', '# Left empty', '# given back'])
    expect(a).toContain(comment)
  expect(b).toContain('web: { network: quay, ranges: [ 10.1.1.0/24 ], routeTable: out } # the web')
})

test('what is new goes to the file of its section, what goes leaves the rest alone', () => {
  const [a, b] = after([
    { op: 'add', path: '/subnets/db', value: { network: 'quay', ranges: ['10.1.3.0/24'] } },
    { op: 'remove', path: '/subnets/app' },
    { op: 'remove', path: '/routeTables/out/routes/0' },
    { op: 'add', path: '/sites', value: { pier: { ranges: ['172.16.0.0/16'] } } },
  ])!
  expect(b).toContain('db:')
  expect(b).not.toContain('app:')
  expect(a).not.toContain('given back')
  expect(a).toContain('pier:')
})

test('a file that is not touched stays as it was to the letter', () => {
  expect(after([{ op: 'replace', path: '/name', value: 'Pier' }])![1]).toBe(files[1]!.text)
})

test('anchors, several documents and nothing at all are left to the document', () => {
  const anchored = [
    {
      name: 'a.yaml',
      text: `format: salt-trail/1
name: Anchored
networks: { quay: { ranges: &all [10.1.0.0/16] } }
plannedRanges: { kept: { ranges: *all } }
`,
    },
  ]
  const estate = readEstate(anchored).estate!
  const change: Change = [{ op: 'add', path: '/networks/quay/ranges/1', value: '10.2.0.0/16' }]
  expect(filesAfter(anchored, estate, made(estate, change))).toBeNull()
  expect(filesAfter([], before, before)).toBeNull()
})

test('whatever changes, the files hold the other state', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 100_000 }), (seed) => {
      const one = estateWithPromises(seed)
      const own = [{ name: 'estate.yaml', text: writeYaml(one) }]
      const first = readEstate(own).estate!
      const next = made(first, randomChange(first, random(seed)))
      const edited = filesAfter(own, first, next)
      if (edited === null) return
      expect(changeBetween(readEstate(edited).estate!, next)).toEqual([])
    }),
    { numRuns: runs(12), seed: 4 },
  )
})
