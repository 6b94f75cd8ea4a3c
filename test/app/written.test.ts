import { parse } from 'yaml'
import { idsWritten, writtenText, type Written } from '~/views/expectations/written'
import type { EndChoice } from '~/questions/question-text'

const ends: EndChoice[] = [
  { end: 'interface:till', id: 'till', about: '' },
  { end: 'subnet:front', id: 'front', about: '' },
  { end: 'site:yard', id: 'yard', about: '' },
  { end: 'party:bank', id: 'bank', about: '' },
]
const plain: Written = {
  id: 'quiet',
  must: 'never-reach',
  from: '',
  to: '',
  except: '',
  over: '',
  named: '',
}
const read = (more: Partial<Written>): unknown =>
  (parse(writtenText({ ...plain, ...more }, ends)) as { expectations: Record<string, unknown> })
    .expectations['quiet']

test('words of the form become what the format takes', () => {
  expect(
    read({ from: 'role private, tag scope=cards', to: 'internet', over: 'tcp 443, 8000-8100' }),
  ).toEqual({
    from: [{ role: 'private' }, { tag: 'scope=cards' }],
    to: 'internet',
    protocol: 'tcp',
    ports: [443, '8000-8100'],
    must: 'never-reach',
  })
  expect(read({ from: 'till', to: 'yard, bank, front, 10.0.0.0/8', except: 'groups/ops' })).toEqual(
    {
      from: 'interfaces/till',
      to: [{ site: 'yard' }, { party: 'bank' }, 'subnets/front', '10.0.0.0/8'],
      except: 'groups/ops',
      must: 'never-reach',
    },
  )
})

test('what a promise names goes where it belongs, and only there', () => {
  expect(read({ must: 'pass', from: 'till', named: 'firewalls/wall' })).toEqual({
    from: 'interfaces/till',
    must: 'pass',
    by: ['firewalls/wall'],
  })
  expect(read({ must: 'appear-as', from: 'till', named: '203.0.113.1/32' })).toMatchObject({
    as: ['203.0.113.1/32'],
  })
  expect(read({ must: 'reach', from: 'till', named: 'firewalls/wall' })).not.toHaveProperty('by')
})

test('the ids of a text are those of its section, whatever its indent', () => {
  expect(idsWritten(writtenText(plain, ends))).toEqual(['quiet'])
  expect(
    idsWritten('expectations:\n    a: { must: reach }\n    b-2:\n        must: reach\n'),
  ).toEqual(['a', 'b-2'])
  expect(idsWritten('nothing')).toEqual([])
})
