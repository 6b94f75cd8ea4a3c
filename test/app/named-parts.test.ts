import { namedParts } from '../../app/objects/named-parts'

const linked = (text: string, ...objects: string[]): string =>
  namedParts(text, objects)
    .map(({ text: said, of }) => (of ? `[${said} → ${of}]` : said))
    .join('')

test('the names of given objects lead to them', () => {
  expect(linked('Packets from app-1 go round wall.', 'subnets/app-1', 'firewalls/wall')).toBe(
    'Packets from [app-1 → subnets/app-1] go round [wall → firewalls/wall].',
  )
})

test('a longer id is taken before one that it begins with', () => {
  expect(linked('app-10 and app-1', 'subnets/app-1', 'subnets/app-10')).toBe(
    '[app-10 → subnets/app-10] and [app-1 → subnets/app-1]',
  )
})

test('an id inside a longer word or an address names nothing', () => {
  expect(linked('wall-inside, 10.0.0.1/wall, a.wall', 'firewalls/wall')).toBe(
    'wall-inside, 10.0.0.1/wall, a.wall',
  )
})

test('an object named with its section leads to it, said by its id', () => {
  expect(linked('interfaces/jump-1: jump-group allows (rule 2)', 'ruleSets/jump-group')).toBe(
    '[jump-1 → interfaces/jump-1]: [jump-group → ruleSets/jump-group] allows (rule 2)',
  )
})

test('a text without a name stays as it is', () => {
  expect(namedParts('It is not up.', [])).toEqual([{ text: 'It is not up.', of: null }])
})
