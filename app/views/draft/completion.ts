import type { CompletionContext, CompletionResult } from '@codemirror/autocomplete'
import type { Objects } from '~/api/answers'
import { choicesFor } from '~/views/draft/reference-fields'

interface Schema {
  readonly enum?: readonly unknown[]
  readonly anyOf?: readonly Schema[]
  readonly oneOf?: readonly Schema[]
  readonly items?: Schema
  readonly properties?: Readonly<Record<string, Schema>>
  readonly additionalProperties?: Schema | boolean
}

/** The keys that a schema knows at any depth, each with the words that can stand under it. */
export function wordsOf(schema: Schema): Map<string, Set<string>> {
  const words = new Map<string, Set<string>>()
  const gather = (one: Schema, into: Set<string> | null): void => {
    for (const word of one.enum ?? []) into?.add(String(word))
    for (const inner of [...(one.anyOf ?? []), ...(one.oneOf ?? [])]) gather(inner, into)
    if (one.items) gather(one.items, into)
    if (typeof one.additionalProperties === 'object') gather(one.additionalProperties, null)
    for (const [key, inner] of Object.entries(one.properties ?? {})) {
      const own = words.get(key) ?? new Set<string>()
      words.set(key, own)
      gather(inner, own)
    }
  }
  gather(schema, null)
  return words
}

/**
 * What can stand where somebody types in the text of an object: its keys, and under a key the words
 * of the format or the ids of the estate.
 */
export const completing =
  (
    section: string,
    words: ReadonlyMap<string, ReadonlySet<string>>,
    objects: () => Objects | null,
  ) =>
  (context: CompletionContext): CompletionResult | null => {
    const line = context.state.doc.lineAt(context.pos)
    const before = line.text.slice(0, context.pos - line.from)
    const typed = /[^\s,:[\]{}]*$/.exec(before)![0]
    if (typed === '' && !context.explicit && !/[:[{,]\s$/.test(before)) return null
    const from = context.pos - typed.length
    const under = /([A-Za-z]+):\s*(?:\[[^\]]*)?[^\s,:[\]{}]*$/.exec(before)?.[1]
    if (under === undefined)
      return {
        from,
        options: [...words.keys()].map((key) => ({
          label: key,
          apply: `${key}: `,
          type: 'property',
        })),
        validFor: /^\w*$/,
      }
    const known = objects()
    const ids = known === null ? [] : (choicesFor(section, under, known) ?? [])
    const options = [...new Set([...(words.get(under) ?? []), ...ids])]
    return options.length === 0
      ? null
      : { from, options: options.map((label) => ({ label, type: 'constant' })) }
  }
