import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { CODES_WITHOUT_FATE, FATES, fateOf } from '~/help/fates'

test('every cause has one fate, and every fate stands in the glossary', () => {
  expect(CODES_WITHOUT_FATE).toEqual([])
  const codes = Object.values(FATES).flat()
  expect(new Set(codes).size).toBe(codes.length)
  const glossary = readFileSync(join(__dirname, '../../docs/glossary.md'), 'utf8')
  for (const fate of Object.keys(FATES)) expect(glossary).toContain(`| ${fate} |`)
})

test('a cause is called by its fate', () => {
  expect([fateOf('no-route'), fateOf('denied-policy'), fateOf('of a later version')]).toEqual([
    ...['no route', 'denied', 'lost'],
  ])
})
