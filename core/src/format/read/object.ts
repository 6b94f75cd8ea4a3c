import { isMap, isSeq, parseDocument, type Node } from 'yaml'
import { z } from 'zod'
import {
  isListSection,
  isMapSection,
  isSingleSection,
  listSections,
  mapSections,
  singleSections,
} from '../schema/document'
import { complaints } from './issues'

/** Something wrong with the text of one object, and where in it. */
export interface TextProblem {
  readonly message: string
  /** Offsets in the text, in characters. */
  readonly from: number
  readonly to: number
}

export interface ReadObject {
  /** The object as JSON; undefined where the text is none, or faulty. */
  readonly value: unknown
  /** The same before it is checked; undefined where the text is neither that nor a list. */
  readonly written: unknown
  readonly problems: readonly TextProblem[]
}

/** A text of one object is no longer than this, in characters, and has no aliases. */
const MOST_CHARACTERS = 1_000_000

/** What the text of an object of a section, or of a section that is edited as one, must be. */
function schemaOf(section: string): z.ZodType | null {
  if (isMapSection(section)) return mapSections[section]
  if (isListSection(section)) return z.array(listSections[section] as z.ZodType)
  return isSingleSection(section) ? singleSections[section] : null
}

/**
 * Reads the text of one object of a section, or of a section that is edited as one (YAML or JSON),
 * and checks it by itself; what it refers to is checked over the whole estate. Costs a pass over
 * the text.
 */
export function readObject(section: string, text: string): ReadObject {
  const whole = (message: string): ReadObject => ({
    value: undefined,
    written: undefined,
    problems: [{ message, from: 0, to: text.length }],
  })
  const schema = schemaOf(section)
  if (schema === null) return whole(`there is no section "${section}"`)
  if (text.length > MOST_CHARACTERS) return whole('this text is too long')
  const document = parseDocument(text, { version: '1.2', prettyErrors: false })
  if (document.errors.length > 0)
    return {
      value: undefined,
      written: undefined,
      problems: document.errors.map(({ message, pos: [from, to] }) => ({
        message: message.replace(/\s+/g, ' ').trim(),
        from,
        to,
      })),
    }
  const isList = isListSection(section)
  if (isList ? !isSeq(document.contents) : !isMap(document.contents))
    return whole(isList ? `${section} is a list` : 'an object is a map of keys')
  const value: unknown = document.toJS({ maxAliasCount: 0 })
  const read = schema.safeParse(value, { reportInput: true })
  if (read.success) return { value, written: value, problems: [] }
  return {
    value: undefined,
    written: value,
    problems: complaints(schema, read.error.issues).map(({ message, path }) => {
      const node = nodeAt(document.contents, path)
      return { message, from: node?.range?.[0] ?? 0, to: node?.range?.[1] ?? text.length }
    }),
  }
}

/** The node at a path, or the nearest one around it. */
function nodeAt(root: unknown, path: readonly (string | number)[]): Node | null {
  let node = root as Node | null
  for (const part of path) {
    const inner = (node as { get?: (key: unknown, keep: boolean) => unknown } | null)?.get?.(
      part,
      true,
    )
    if (typeof inner !== 'object' || inner === null) return node
    node = inner as Node
  }
  return node
}
