import { readFileSync } from 'node:fs'
import {
  compile,
  isRefusal,
  trace as answer,
  traceText,
  type Model,
  type Question,
  type Refusal,
  type Trace,
} from '@salt-trail/core'
import { FINE, FOUND, refuse, REFUSED } from './exit-status'
import { estateOrComplain, reasonOf } from './read-files'

export interface TraceFlags {
  readonly from?: string
  readonly to?: string
  readonly protocol: string
  readonly port?: number
  readonly sourcePort?: number
  readonly family?: 4 | 6
  readonly continue?: boolean
  readonly questions?: string
  readonly json?: boolean
}

/** `salt-trail trace`: one question from the command line, or many from a file. */
export function trace(names: readonly string[], flags: TraceFlags): number {
  if (flags.questions !== undefined) return traceMany(names, flags.questions, flags.json === true)
  if (flags.from === undefined || flags.to === undefined)
    return refuse('a trace needs --from and --to, or --questions FILE')
  const estate = estateOrComplain(names)
  if (!estate) return REFUSED
  const question: Question = {
    from: flags.from,
    to: flags.to,
    protocol: flags.protocol,
    port: flags.port ?? null,
    sourcePort: flags.sourcePort ?? null,
    ...(flags.family === undefined ? {} : { family: flags.family }),
    continue: flags.continue ?? false,
  }
  const result = answer(compile(estate), question)
  if (isRefusal(result)) return refuse(result.message)
  process.stdout.write(flags.json ? `${JSON.stringify(result, null, 2)}\n` : traceText(result))
  return result.verdict === 'works' ? FINE : FOUND
}

/**
 * Many questions at once: an array in, an array of answers out, in order. A question that cannot be
 * asked is answered with its refusal.
 */
function traceMany(names: readonly string[], file: string, json: boolean): number {
  let questions: unknown
  try {
    questions = JSON.parse(readFileSync(file === '-' ? 0 : file, 'utf8'))
  } catch (error) {
    return refuse(
      error instanceof SyntaxError
        ? `${file} is no JSON: ${error.message}`
        : `${file} ${reasonOf(error)}`,
    )
  }
  if (!Array.isArray(questions))
    return refuse(
      `${file} is wanted to hold an array of questions, such as [{"from":"interface:booking-1","to":"internet","protocol":"tcp","port":443}]`,
    )
  const bad = questions.findIndex(
    (q) =>
      typeof q !== 'object' || q === null || typeof q.from !== 'string' || typeof q.to !== 'string',
  )
  if (bad >= 0) return refuse(`question ${bad + 1} of ${file} lacks "from" or "to" as texts`)
  const estate = estateOrComplain(names)
  if (!estate) return REFUSED
  const model = compile(estate)
  let refused = false
  let allWork = true
  let waiting: string[] = []
  // Each answer is written once it is there: many of them do not fit in memory comfortably.
  const write = (text: string, last = false): void => {
    waiting.push(text)
    if (!last && waiting.length < 200) return
    process.stdout.write(waiting.join(''))
    waiting = []
  }
  questions.forEach((question: Question, index) => {
    const one = answerOrRefusal(model, question)
    if (json) write(`${index === 0 ? '[\n' : ',\n'}${JSON.stringify(one)}`)
    else
      write(
        'error' in one
          ? `refused: ${one.error.message}\n`
          : `${one.question.from} to ${one.question.to}: ${verdictLine(one)}\n`,
      )
    if ('error' in one) {
      refused = true
      process.stderr.write(`salt-trail: ${one.error.message}\n`)
    } else if (one.verdict !== 'works') allWork = false
  })
  write(json ? (questions.length === 0 ? '[]\n' : '\n]\n') : '', true)
  return refused ? REFUSED : allWork ? FINE : FOUND
}

function answerOrRefusal(
  model: Model,
  question: Question,
): Trace | { question: Question; error: Refusal } {
  const result = answer(model, question)
  return isRefusal(result) ? { question, error: result } : result
}

const verdictLine = ({ verdict, cause }: Trace): string =>
  cause ? `${verdict}, ${cause.code} at ${cause.object}` : verdict
