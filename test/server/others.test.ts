import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { createInterface } from 'node:readline'
import { base, get, json, person, post } from './requests'

/** Nobody waits longer for something trivial, but for one request in a hundred. */
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
  const worst = spawn(
    process.execPath,
    ['test/machine/worst.mjs', base, attacker.cookie!, String(SECONDS)],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  )
  const told = once(createInterface(worst.stdout), 'line') as Promise<[string]>
  const ended = once(worst, 'exit')
  let isOver = false
  void ended.then(() => (isOver = true))
  const took: number[] = []
  for (let at = 0; !isOver; at++) {
    const begun = performance.now()
    const answer = await TRIVIAL[at % TRIVIAL.length]!()
    took.push(performance.now() - begun)
    expect(answer.status).toBe(200)
    await new Promise((resolve) => setTimeout(resolve, 10))
  }
  const answered = JSON.parse((await told)[0]) as Record<string, Record<string, number>>
  // The attack was one: most of its kinds were at work, and none was simply turned away.
  expect(Object.keys(answered).length).toBeGreaterThanOrEqual(6)
  for (const counts of Object.values(answered))
    for (const status of ['401', '403', '404', '413', '500']) expect(counts[status]).toBeUndefined()
  took.sort((one, other) => one - other)
  const p99 = took[Math.floor(took.length * 0.99)]!
  expect([took.length > 100, Math.round(p99)]).toEqual([true, expect.any(Number)])
  expect(Math.round(p99)).toBeLessThanOrEqual(MOST_MILLISECONDS)
}, 120_000)
