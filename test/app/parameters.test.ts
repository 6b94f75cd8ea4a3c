import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { PARAMETERS, unknownParameters } from '~/composables/parameters'

const app = join(__dirname, '../../app')
const textsOf = (folder: string): string[] =>
  readdirSync(join(app, folder), { withFileTypes: true }).map(({ name }) =>
    readFileSync(join(app, folder, name), 'utf8'),
  )

test('every parameter that a view keeps in its address is one that its links may have', () => {
  const views = readdirSync(join(app, 'views')).filter((view) => view in PARAMETERS)
  expect(views.length).toBeGreaterThan(8)
  for (const view of views)
    for (const text of textsOf(`views/${view}`))
      for (const [, key] of text.matchAll(/InAddress(?:<[^(]*>)?\(\s*'(\w+)'/g))
        expect([view, PARAMETERS[view]]).toEqual([view, expect.arrayContaining([key])])
})

test('what a view does not know is named, on views alone', () => {
  expect(
    unknownParameters('/ferries/head/trace', { from: 'a', form: 'b', against: 'base' }),
  ).toEqual(['form'])
  expect(unknownParameters('/bring-in', { into: 'ferries', x: '1' })).toEqual([])
})
