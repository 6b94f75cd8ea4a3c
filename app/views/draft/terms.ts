import { optionsIn, type FieldSchema } from '~/views/draft/field-schema'
import { wordsIn } from '~/views/draft/words-in'

/**
 * Terms are words, or objects of one key, such as the peers of a rule. In a form an object is
 * written as its key and its value: `tag:scope=cards` for `{ tag: scope=cards }`.
 */
export interface TermSchema {
  /** The keys an object can have. */
  readonly keys: readonly string[]
  /**
   * What can stand without a list around it: any word, some words, or an object. Several terms need
   * a list.
   */
  readonly alone: {
    readonly words: 'any' | readonly string[]
    readonly objects: boolean
  }
  /** Whether a list can stand there. */
  readonly isList: boolean
}

/** What terms a schema has room for; null where it is not of words and objects of one key. */
export function termSchemaOf(schema: FieldSchema): TermSchema | null {
  const outer = optionsIn(schema)
  const lists = outer.filter(({ type }) => type === 'array')
  const alone = outer.filter(({ type }) => type !== 'array')
  const all = [...alone, ...lists.flatMap(({ items }) => optionsIn(items))]
  const objects = all.filter(({ type }) => type === 'object')
  if (objects.length === 0 || !all.some(({ type }) => type === 'string')) return null
  const words = alone.filter(({ type }) => type === 'string')
  const named = words.flatMap((one) => one.enum ?? (one.const === undefined ? [] : [one.const]))
  const isAny = words.some((one) => one.enum === undefined && one.const === undefined)
  return {
    keys: [...new Set(objects.flatMap(textKeysOf))],
    alone: {
      words: isAny ? 'any' : named.map(String),
      objects: alone.some(({ type }) => type === 'object'),
    },
    isList: lists.length > 0,
  }
}

/** The keys of an object under which a text stands. */
const textKeysOf = ({ properties = {} }: FieldSchema): string[] =>
  Object.entries(properties).flatMap(([key, { type }]) => (type === 'string' ? [key] : []))

/** What can be written where terms stand, for who edits them. */
export const termsHint = ({ keys }: TermSchema): string =>
  `words, and ${keys.map((key) => `${key}:…`).join(', ')}`

/** Terms as words; null where one of them cannot be written so. */
export function termsText(value: unknown): readonly string[] | null {
  if (value === undefined) return []
  const texts = (Array.isArray(value) ? value : [value]).map(textOf)
  return texts.every((text) => text !== null) ? texts : null
}

function textOf(term: unknown): string | null {
  if (typeof term === 'string') return isOneWord(term) ? term : null
  if (typeof term !== 'object' || term === null || Array.isArray(term)) return null
  const [first, ...others] = Object.entries(term)
  if (first === undefined || others.length > 0) return null
  const [key, value] = first
  return typeof value === 'string' && isOneWord(value) ? `${key}:${value}` : null
}

const isOneWord = (text: string): boolean => text !== '' && !/[\s,]/.test(text)

/** Words as the terms that a schema has room for; undefined where there is none. */
export function termsOf({ keys, alone, isList }: TermSchema, text: string): unknown {
  const terms = wordsIn(text).map((word): unknown => {
    const at = word.indexOf(':')
    const key = word.slice(0, at)
    return keys.includes(key) ? { [key]: word.slice(at + 1) } : word
  })
  const [only, ...others] = terms
  if (only === undefined) return undefined
  if (!isList) return only
  const standsAlone =
    typeof only === 'string' ? alone.words === 'any' || alone.words.includes(only) : alone.objects
  return others.length === 0 && standsAlone ? only : terms
}
