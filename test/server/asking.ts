import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { createInterface } from 'node:readline'
import { enterLocally } from '../../scripts/machine/server.mjs'
import { askBy } from './parse-answers'
import { generateEstate } from '../../scripts/generator/estate'
import { SIZES } from '../../scripts/generator/plan'

export const base = process.env.SALT_TRAIL_TEST_ADDRESS!
export const json = { 'content-type': 'application/json' }

export interface Status {
  state: 'none' | 'running' | 'done' | 'failed' | 'stopped'
  message?: string
  progress?: { about: string; done: number; of: number }
  counts?: {
    findings: Record<string, number>
    rootCauses: number
    families: Record<string, number>
    expectations: Record<string, number>
  }
}
export interface Page<T> {
  total: number
  findings: T[]
  rows: T[]
}
export interface Found {
  fingerprint: string
  code: string
  severity: string
  sentence: string
}

export const get = async <T>(path: string, address = base): Promise<T> =>
  (await fetch(`${address}${path}`)).json() as Promise<T>

export async function create(networks: number, address = base): Promise<string> {
  const text = JSON.stringify(generateEstate({ ...SIZES.S, networks }, 5).estate)
  const body = JSON.stringify({ files: [{ name: 'made.json', text }] })
  const answer = await fetch(`${address}/api/estates`, { method: 'POST', headers: json, body })
  return `/api/estates/${((await answer.json()) as { slug: string }).slug}/head`
}

export async function ended(revision: string, address = base): Promise<Status> {
  for (;;) {
    const status = await get<Status>(`${revision}/analysis`, address)
    if (status.state !== 'running') return status
    expect(status.progress!.done).toBeLessThanOrEqual(status.progress!.of)
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}

/** A server of its own with other limits, while something is asked of it. */
export async function withServer(
  limits: Record<string, string>,
  ask: (address: string, server: number, console: () => string) => Promise<void>,
): Promise<void> {
  const world = spawn(process.execPath, ['test/machine/serve.mjs', '0'], {
    env: { ...process.env, ...limits },
  })
  const printed: string[] = []
  world.stderr.on('data', (text) => printed.push(String(text)))
  try {
    const begun = once(createInterface(world.stdout), 'line') as Promise<[string]>
    const [address] = await Promise.race([
      begun,
      once(world, 'exit').then(() => Promise.reject(new Error('the server did not start'))),
    ])
    if (limits.SALT_TRAIL_LOCAL_ENTRY !== 'no') askBy(address, await enterLocally(address))
    await ask(address, world.pid!, () => printed.join(''))
  } finally {
    // A server that did not start has ended already.
    if (world.exitCode === null && world.kill('SIGTERM')) await once(world, 'exit')
  }
}
