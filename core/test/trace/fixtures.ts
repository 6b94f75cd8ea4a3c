import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from 'yaml'
import {
  compile,
  isRefusal,
  readEstate,
  trace,
  type Model,
  type Question,
  type Trace,
} from '../../src/index'

/**
 * Fixtures are estates in the format with questions and their answers, readable as documentation.
 * A case may carry an `edit` (JSON Merge Patch, RFC 7396) that is applied to the estate before it
 * is asked: so each cause stands beside its twin, one edit away.
 */
export interface Fixture {
  readonly about: string
  readonly estate: Record<string, unknown>
  readonly cases: readonly Case[]
}

export interface Case {
  readonly why: string
  readonly edit?: unknown
  /** `from > to protocol port`, and `from PORT` for a source port. */
  readonly ask: string
  readonly verdict?: string
  /**
   * `code at object`, with `, back` where it is met on the way back and `, inside CODE at OBJECT`
   * for a NAT's inner cause.
   */
  readonly cause?: string | null
  readonly way?: readonly string[]
  readonly leavesBy?: string | null
  readonly seenAs?: readonly string[]
  readonly refused?: string
  readonly branches?: number
}

const folder = join(__dirname, 'fixtures')

export const fixtures = (): { name: string; fixture: Fixture }[] =>
  readdirSync(folder)
    .sort()
    .map((file) => ({
      name: file.replace('.yaml', ''),
      fixture: parse(readFileSync(join(folder, file), 'utf8')) as Fixture,
    }))

export function modelOf(estate: Record<string, unknown>, edit?: unknown): Model {
  const whole = {
    format: 'salt-trail/1',
    name: 'Fixture',
    ...(edit === undefined ? estate : (mergePatch(estate, edit) as object)),
  }
  const { estate: read, problems } = readEstate([{ name: 'fixture', text: JSON.stringify(whole) }])
  if (!read) throw new Error(problems.map((p) => p.message).join('\n'))
  return compile(read)
}

export function questionOf(text: string): Question {
  const [, from, to, protocol, port, source] =
    /^(\S+) > (\S+)(?: (\w+))?(?: (\d+))?(?: from (\d+))?$/.exec(text) ?? []
  if (!from || !to) throw new Error(`"${text}" is no question`)
  return {
    from,
    to,
    protocol: protocol ?? 'tcp',
    port: port ? Number(port) : protocol === 'icmp' ? null : 443,
    sourcePort: source ? Number(source) : null,
  }
}

export function ask(model: Model, text: string): Trace {
  const answer = trace(model, questionOf(text))
  if (isRefusal(answer)) throw new Error(answer.message)
  return answer
}

export function causeText({ cause }: Trace): string | null {
  if (!cause) return null
  const inner = cause.inner ? `, inside ${cause.inner.code} at ${cause.inner.object}` : ''
  return `${cause.code} at ${cause.object}${cause.direction === 'return' ? ', back' : ''}${inner}`
}

/** RFC 7396: null removes, maps merge, everything else replaces. */
export function mergePatch(target: unknown, patch: unknown): unknown {
  if (typeof patch !== 'object' || patch === null || Array.isArray(patch)) return patch
  const base = new Map(
    Object.entries(
      typeof target === 'object' && target !== null && !Array.isArray(target) ? target : {},
    ),
  )
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) base.delete(key)
    else base.set(key, mergePatch(base.get(key), value))
  }
  return Object.fromEntries(base)
}
