import { overText, USUAL_OVER, type Over } from './over'
import { readPasted } from './pasted'
import { complete, resolveEnd, type EndChoice, type QuestionText } from './question-text'

/** A question of the bar as it is asked, or why it cannot be, and what may be meant. */
export type Asked =
  | { readonly from: string; readonly to: string; readonly over: string }
  | {
      readonly part: 'from' | 'to' | 'over'
      readonly message: string
      readonly candidates: readonly EndChoice[]
    }

/** The question with its ends taken apart that were pasted with a port or as a URL. */
export function withPasted(question: QuestionText): QuestionText {
  const [from, to] = [readPasted(question.from), readPasted(question.to)]
  if (from === null && to === null) return question
  return {
    from: from?.end ?? question.from,
    to: to?.end ?? question.to,
    over: to?.over || question.over,
  }
}

/**
 * Reads the ends of a question: what they name, or the one thing they begin to name. Without any
 * word of what it goes over, it goes over the usual.
 */
export async function readAsked(
  { from, to, over }: QuestionText,
  choices: readonly EndChoice[],
  readOver: (text: string) => Promise<Over | string>,
): Promise<Asked> {
  const ends = { from: endMeant(from, choices), to: endMeant(to, choices) }
  for (const [part, text] of [
    ['from', from],
    ['to', to],
  ] as const) {
    const end = ends[part]
    if (typeof end !== 'string') return { part, ...refusedEnd(part, text, end) }
  }
  const read = await readOver(over.trim() || USUAL_OVER)
  if (typeof read === 'string') return { part: 'over', message: read, candidates: [] }
  return { from: ends.from as string, to: ends.to as string, over: overText(read) }
}

const MOST_CANDIDATES = 8

/** The end that a text means, or all that it may mean where that is not one. */
export function endMeant(
  text: string,
  choices: readonly EndChoice[],
): string | readonly EndChoice[] {
  const end = resolveEnd(text, choices)
  if (end !== null) return end
  const meant = text.trim() === '' ? [] : complete(text, choices, MOST_CANDIDATES)
  return meant.length === 1 ? meant[0]!.end : meant
}

function refusedEnd(part: string, text: string, candidates: readonly EndChoice[]) {
  if (text.trim() === '') return { message: `say where it goes ${part}`, candidates }
  return candidates.length === 0
    ? { message: `nothing here is called "${text}", and it is no address`, candidates }
    : { message: `"${text}" may mean several things; pick one`, candidates }
}
