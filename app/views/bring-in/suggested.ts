import type { Problem, SourceFile } from '@salt-trail/core'

/** What stands at a place of a text up to the end of a word, a key or a quoted text. */
const AT_PLACE = /^(?:"[^"\n]*"|'[^'\n]*'|[^\s,}\]]+?(?=:\s|:$|[\s,}\]]|$))/

/** Where a line and a column, both from 1, are in a text. */
export const offsetOf = (
  text: string,
  { line, column }: Pick<Problem, 'line' | 'column'>,
): number =>
  text
    .split('\n')
    .slice(0, line - 1)
    .reduce((sum, one) => sum + one.length + 1, 0) +
  column -
  1

/** How long the word is that begins at an offset; 1 where none does. */
export const wordAt = (text: string, offset: number): number => {
  const line = text.slice(offset, text.indexOf('\n', offset) >>> 0)
  return AT_PLACE.exec(line)?.[0].length ?? 1
}

/** A text with the suggestion of a problem put where the problem is, in the quotes that are there. */
export function withSuggestion(text: string, problem: Problem): string {
  const start = offsetOf(text, problem)
  const end = start + wordAt(text, start)
  const quote = /^["']/.exec(text.slice(start, end))?.[0] ?? ''
  return `${text.slice(0, start)}${quote}${problem.suggestion}${quote}${text.slice(end)}`
}

/** The name that files give their estate; empty where none is seen. */
export function nameIn(files: readonly SourceFile[]): string {
  for (const { text } of files) {
    const [, name] = /^\s*"?name"?\s*:\s*(.+?),?\s*$/m.exec(text) ?? []
    if (name !== undefined) return name.replace(/^(["'])(.*)\1$/, '$2')
  }
  return ''
}
