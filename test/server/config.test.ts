import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { readConfig } from '../../server/config'
import { isKnownHost } from '../../server/hosts'
import { serverEntry } from '../../scripts/machine/build.mjs'

const DATABASE_URL = 'postgres://somebody@127.0.0.1:1/salt'

test('settings have defaults, and numbers and lists are read', () => {
  expect(readConfig({ DATABASE_URL })).toMatchObject({
    SALT_TRAIL_DEMO: 'yes',
    SALT_TRAIL_HOSTS: [],
    SALT_TRAIL_ANALYSIS_SECONDS: 900,
  })
  const given = {
    DATABASE_URL,
    SALT_TRAIL_HOSTS: 'Trail.example, [2001:db8::1]',
    SALT_TRAIL_ANALYSIS_SECONDS: '60',
  }
  expect(readConfig(given)).toMatchObject({
    SALT_TRAIL_HOSTS: ['trail.example', '[2001:db8::1]'],
    SALT_TRAIL_ANALYSIS_SECONDS: 60,
  })
})

test.each([
  [{}, /^DATABASE_URL is not set/],
  [{ DATABASE_URL: 'nowhere' }, /^DATABASE_URL \("nowhere"\) is no address/],
  [
    { DATABASE_URL, SALT_TRAIL_ANALYSIS_SECONDS: 'soon' },
    /^SALT_TRAIL_ANALYSIS_SECONDS \("soon"\) is no number/,
  ],
  [{ DATABASE_URL, SALT_TRAIL_ANALYSIS_SECONDS: '0' }, /must be above 0/],
  [{ DATABASE_URL, SALT_TRAIL_ANSWERS_MEGABYTES: '0' }, /^SALT_TRAIL_ANSWERS_MEGABYTES \("0"\)/],
  [
    { DATABASE_URL, SALT_TRAIL_HOSTS: 'a b' },
    /^SALT_TRAIL_HOSTS \("a b"\) holds what is no host name/,
  ],
  [
    { SALT_TRAIL_DEMO: 'maybe', SALT_TRAIL_LOG: 'loud' },
    /DATABASE_URL.*SALT_TRAIL_DEMO \("maybe"\).*SALT_TRAIL_LOG \("loud"\)/,
  ],
])('%j is refused with the name of every bad setting', (environment, message) => {
  expect(() => readConfig(environment)).toThrow(message)
})

test('a server with a bad setting ends at once and names it', async () => {
  const env = { ...process.env, DATABASE_URL, SALT_TRAIL_READING_MEGABYTES: 'much', PORT: '0' }
  const child = spawn(process.execPath, [serverEntry], { env, stdio: ['ignore', 'ignore', 'pipe'] })
  let said = ''
  child.stderr.on('data', (part) => (said += part))
  const [status] = (await once(child, 'exit')) as [number]
  expect({ status, said }).toEqual({
    status: 2,
    said: 'salt-trail: SALT_TRAIL_READING_MEGABYTES ("much") is no whole number from 1 to 999999999\n',
  })
})

test.each([
  ['127.0.0.1:7250', true],
  ['127.8.0.1', true],
  ['LocalHost:1', true],
  ['[::1]:7250', true],
  ['trail.example', true],
  ['trail.example:8080', true],
  ['127.0.0.1.evil.example', false],
  ['evil.example:7250', false],
  ['localhost.evil.example', false],
  ['10.0.0.1', false],
  ['', false],
  [undefined, false],
])('the host %s is known: %s', (host, known) =>
  expect(isKnownHost(host, ['trail.example'])).toBe(known),
)
