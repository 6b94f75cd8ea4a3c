import { expect, test } from '@jest/globals'
import type { Talk } from '@salt-trail/core'
import { talkRows } from '~/views/ways-in/talk-rows'

const talk = (to: string, values: Partial<Talk> = {}): Talk => ({
  ...{ from: 'quay', to, open: [], unanswered: [], shown: null, isCut: false },
  hosts: { from: 3, to: 2 },
  ...values,
})

test('networks of which the same is said are one row; what can be sent comes first', () => {
  const talks = [
    talk('a'),
    talk('b', { hosts: { from: 3, to: 0 } }),
    talk('c', { open: ['tcp 443'] }),
    talk('d', { unanswered: ['tcp 22'] }),
    talk('e', { open: ['tcp 22', 'tcp 443'] }),
    talk('f'),
    talk('g', { open: ['tcp 443'] }),
    talk('h', { isCut: true }),
  ]
  const rows = talkRows(
    [...talks.map(({ to }) => to), 'i'],
    (to) => talks.find((one) => one.to === to) ?? null,
  )
  expect(rows.map(({ text, to }) => [text, to.join()])).toEqual([
    ['tcp 443', 'c,g'],
    ['tcp 22, tcp 443', 'e'],
    ['no answer', 'd'],
    ['not looked through', 'h'],
    ['…', 'i'],
    ['–', 'a,f'],
    ['no hosts', 'b'],
  ])
})
