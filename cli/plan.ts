import { compile, planOf, shareWith, type Plan } from '@salt-trail/core'
import { FINE, FOUND, REFUSED } from './exit-status'
import { estateOrComplain } from './read-files'

/** An order is searched no longer than this; what is found then says that it was ended. */
const MOST_MILLISECONDS = 300_000

/**
 * `salt-trail plan OLD NEW`: the steps by which one becomes the other, as Markdown or JSON. Status 1
 * where no order without a gap was found.
 */
export function plan(old: string, now: string, flags: { readonly json?: boolean }): number {
  const [before, after] = [estateOrComplain([old]), estateOrComplain([now])]
  if (!before || !after) return REFUSED
  const end = performance.now() + MOST_MILLISECONDS
  const made = planOf(before, shareWith(before, after), () => performance.now() > end)
  process.stdout.write(
    flags.json ? `${JSON.stringify(made, null, 2)}\n` : planText(made, compile(before).estate.name),
  )
  return made.gapless ? FINE : FOUND
}

/** A plan as Markdown, to be carried out from top to bottom. */
function planText({ steps, gapless, complete }: Plan, name: string): string {
  if (steps.length === 0) return 'Nothing differs.\n'
  const count = (rows: readonly unknown[], what: string): string[] =>
    rows.length > 0 ? [`${what} ${rows.length} ${rows.length === 1 ? 'row' : 'rows'}`] : []
  const head = gapless
    ? 'After every step everything that works before and after works, and nothing else does.'
    : `No order without a gap was found${complete ? '' : '; the search was ended, so one may exist'}. Steps with a gap say what is lost or open until it closes.`
  const lines = steps.flatMap(({ what, changes, opened, cut, gap }, at) => [
    `${at + 1}. ${what[0]!.toUpperCase()}${what.slice(1)}`,
    ...changes.map(({ op, path }) => `   - \`${op} ${path}\``),
    ...[...count(opened, 'opens'), ...count(cut, 'cuts')].map((text) => `   - ${text}`),
    ...gap.slice(0, 5).map((text) => `   - **gap:** ${text}`),
  ])
  return `# Plan for ${name}\n\n${head}\n\n${lines.join('\n')}\n`
}
