import { readAsked, withPasted } from '~/questions/asked'
import { readOver } from '~/questions/over'
import type { EndChoice } from '~/questions/question-text'

const choices: EndChoice[] = [
  { end: 'internet', id: 'internet', about: 'any public address outside' },
  { end: 'interface:report-1', id: 'report-1', about: 'host 10.1.1.1' },
  { end: 'interface:report-2', id: 'report-2', about: 'host 10.1.1.2' },
  { end: 'interface:booking', id: 'booking', about: 'host 10.1.1.3' },
]
const read = (from: string, to: string, over = '') =>
  readAsked({ from, to, over }, choices, async (text) => readOver(text))

test('ends are what they name, or the one thing they begin to name', async () => {
  expect(await read('book', 'internet')).toEqual({
    ...{ from: 'interface:booking', to: 'internet', over: 'tcp 443' },
  })
  expect(await read('report-2', '198.51.100.9', '22')).toEqual({
    ...{ from: 'interface:report-2', to: '198.51.100.9', over: 'tcp 22' },
  })
})

test('what cannot be asked says which part, and what may be meant', async () => {
  expect(await read('report', 'internet')).toMatchObject({
    part: 'from',
    candidates: [{ id: 'report-1' }, { id: 'report-2' }],
  })
  expect(await read('booking', 'nobody')).toMatchObject({
    ...{ part: 'to', message: 'nothing here is called "nobody", and it is no address' },
  })
  expect(await read('', 'internet')).toMatchObject({
    part: 'from',
    message: 'say where it goes from',
  })
  expect(await read('booking', 'internet', 'tcp')).toMatchObject({ part: 'over' })
})

test('an end pasted with its port says what the question goes over', () => {
  const question = { from: 'booking', to: 'https://shop.example/x', over: '' }
  expect(withPasted(question)).toEqual({ from: 'booking', to: 'shop.example', over: 'https' })
  const same = { from: 'booking', to: 'internet', over: 'tcp 22' }
  expect(withPasted(same)).toBe(same)
  expect(withPasted({ ...same, from: '198.51.100.9:8443' })).toEqual({
    ...{ from: '198.51.100.9', to: 'internet', over: 'tcp 22' },
  })
})
