import { spawn, spawnSync } from 'node:child_process'
import { dirname } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = dirname(dirname(dirname(fileURLToPath(import.meta.url))))
export const isRoot = process.getuid?.() === 0

/** A mistake or a lack that a person can mend: told without a stack. */
export class Told extends Error {}

export const say = (text) => process.stderr.write(`${text}\n`)

/** Runs a command to its end and returns its output; throws with what it said if it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, encoding: 'utf8', ...options })
  if (result.error) throw new Told(`${command} could not be run: ${result.error.message}`)
  if (result.status !== 0)
    throw new Told(
      `${command} ${args.join(' ')} failed:\n${result.stdout ?? ''}${result.stderr ?? ''}`,
    )
  return result.stdout ?? ''
}

/** Runs a command with its output shown; resolves with its exit status. */
export function show(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 2, 2], ...options })
    child.on('error', reject)
    child.on('exit', (status, signal) => resolve(signal ? 1 : (status ?? 1)))
  })
}

/** Runs `main` and turns what it throws into a message and an exit status. */
export async function command(main) {
  try {
    process.exitCode = await main()
  } catch (error) {
    if (!(error instanceof Told)) throw error
    say(`salt-trail: ${error.message}`)
    process.exitCode = 1
  }
}
