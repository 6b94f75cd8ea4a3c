/** One thing a question can begin or end at, as the server's outline lists them. */
export interface EndChoice {
  /** As the API takes it, such as `interface:booking-1`. */
  readonly end: string
  /** As people write it, such as `booking-1`. */
  readonly id: string
  /** Addresses, place and tags, to be found by and told apart. */
  readonly about: string
  /** The subnet a host is in. */
  readonly home?: string
}

/** A question as the bar holds it: three texts. */
export interface QuestionText {
  readonly from: string
  readonly to: string
  readonly over: string
}

const ADDRESS = /^(\d{1,3}(\.\d{1,3}){3}|[0-9a-f:.]*:[0-9a-f:.]*)$/i
const WITH_KIND = /^(interface|subnet|site|party|service|frontend|name):/

/**
 * Takes a whole question in one line apart: `booking-1 > fuel-broker tcp 443`. Null if there is no
 * `>` in it.
 */
export function splitQuestion(text: string): QuestionText | null {
  const [left, right, ...more] = text.split(/\s*>\s*/)
  if (right === undefined || more.length > 0) return null
  const [to = '', ...over] = right.trim().split(/\s+/)
  return { from: left!.trim(), to, over: over.join(' ') }
}

export const joinQuestion = ({ from, to, over }: QuestionText): string =>
  `${from} > ${to} ${over}`.trim()

/**
 * What the API is asked for a text: the one thing it names, an address or a written-out end; null
 * if that is unclear.
 */
export function resolveEnd(text: string, choices: readonly EndChoice[]): string | null {
  const word = text.trim()
  if (word === '') return null
  if (word === 'internet' || WITH_KIND.test(word) || ADDRESS.test(word)) return word
  const named = choicesNamed(word, choices)
  if (named.length === 1) return named[0]!.end
  if (named.length > 1) return null
  const folded = choices.filter((choice) => choice.id.toLowerCase() === word.toLowerCase())
  if (folded.length === 1) return folded[0]!.end
  // A name with a dot that nothing in the estate has is a domain name.
  return /^[a-z0-9*-]+(\.[a-z0-9-]+)+$/i.test(word) ? `name:${word}` : null
}

/** How an end is shown: without its kind where its id alone names it. */
export function showEnd(end: string, choices: readonly EndChoice[]): string {
  const id = end.slice(end.indexOf(':') + 1)
  const named = choicesNamed(id, choices)
  return named.length === 1 && named[0]!.end === end ? id : end
}

interface Searched {
  readonly choice: EndChoice
  readonly id: string
  readonly about: string
}
interface ChoiceIndex {
  readonly searched: readonly Searched[]
  readonly byId: ReadonlyMap<string, readonly EndChoice[]>
}
const indexes = new WeakMap<readonly EndChoice[], ChoiceIndex>()

/**
 * The choices as they are searched, in small letters: made once for a list, which may be very long.
 */
function indexOf(choices: readonly EndChoice[]): ChoiceIndex {
  const known = indexes.get(choices)
  if (known) return known
  const byId = new Map<string, EndChoice[]>()
  for (const choice of choices) {
    const same = byId.get(choice.id)
    if (same) same.push(choice)
    else byId.set(choice.id, [choice])
  }
  const made = {
    searched: choices.map((choice) => ({
      choice,
      id: choice.id.toLowerCase(),
      about: choice.about.toLowerCase(),
    })),
    byId,
  }
  indexes.set(choices, made)
  return made
}

/** Everything of a name. */
export const choicesNamed = (id: string, choices: readonly EndChoice[]): readonly EndChoice[] =>
  indexOf(choices).byId.get(id) ?? []

/**
 * The choices a half-written text can mean, the likeliest first: begins with it, has a word that
 * does, holds it, is described by it.
 */
export function complete(text: string, choices: readonly EndChoice[], most = 8): EndChoice[] {
  const word = text.trim().toLowerCase()
  if (word === '') return choices.slice(0, most)
  const ranks: EndChoice[][] = [[], [], [], []]
  for (const { choice, id, about } of indexOf(choices).searched) {
    if (id.startsWith(word) || choice.end.startsWith(word)) {
      ranks[0]!.push(choice)
      if (ranks[0]!.length >= most) break
      continue
    }
    const at = id.indexOf(word)
    const rank =
      at > 0 ? (id[at - 1] === '-' || id[at - 1] === '.' ? 1 : 2) : about.includes(word) ? 3 : -1
    if (rank > 0 && ranks[rank]!.length < most) ranks[rank]!.push(choice)
  }
  return ranks.flat().slice(0, most)
}
