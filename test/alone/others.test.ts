import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { createInterface } from 'node:readline'
import { base, get, json, person, post } from '../server/requests'

/** So much longer somebody waits for something trivial, but for one request in a hundred. */
const MOST_MILLISECONDS = 250
const SECONDS = 15

test('the worst that one account may send holds nobody else up', async () => {
  const attacker = await person('B. Ad')
  const demo = '/api/estates/halite-ferries/head'
  const question = { from: 'interface:banner-1', to: 'internet', protocol: 'tcp', port: 443 }
  const TRIVIAL = [
    () => get('/api/estates'),
    () => post(`${demo}/trace`, question, json),
    () => get(`${demo}/search?text=crew`),
    () => get(`${demo}/analysis`),
  ]
  for (const ask of TRIVIAL) expect((await ask()).status).toBe(200)
  let asked = 0
  const quiet = await waits(TRIVIAL, () => ++asked > 200)
  const worst = spawn(
    process.execPath,
    ['test/machine/worst.mjs', base, attacker.cookie!, String(SECONDS)],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  )
  const told = once(createInterface(worst.stdout), 'line') as Promise<[string]>
  const ended = once(worst, 'exit')
  let isOver = false
  void ended.then(() => (isOver = true))
  const took = await waits(TRIVIAL, () => isOver)
  const answered = JSON.parse((await told)[0]) as Record<string, Record<string, number>>
  // The attack was one: most of its kinds were at work, and none was simply turned away.
  expect(Object.keys(answered).length).toBeGreaterThanOrEqual(6)
  for (const counts of Object.values(answered))
    for (const status of ['401', '403', '404', '413', '500']) expect(counts[status]).toBeUndefined()
  expect(took.length).toBeGreaterThan(100)
  expect(Math.round(p99(took) - p99(quiet))).toBeLessThanOrEqual(MOST_MILLISECONDS)
}, 120_000)

const p99 = (took: readonly number[]): number =>
  [...took].sort((one, other) => one - other)[Math.floor(took.length * 0.99)]!

/** How long each of some requests took, one after the other until it is over, in milliseconds. */
async function waits(
  requests: readonly (() => Promise<Response>)[],
  isOver: () => boolean,
): Promise<number[]> {
  const took: number[] = []
  for (let at = 0; !isOver(); at++) {
    const begun = performance.now()
    const answer = await requests[at % requests.length]!()
    took.push(performance.now() - begun)
    expect(answer.status).toBe(200)
    await new Promise((resolve) => setTimeout(resolve, 10))
  }
  return took
}
