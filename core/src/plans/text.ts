import type { Plan, PlanStep } from './plan'

/** So many rows of what a step opens, and of what it cuts, are written out. */
const MOST_ROWS = 8

/** A plan as Markdown, to be carried out from top to bottom. */
export function planText({ steps, gapless, complete }: Plan, name: string): string {
  if (steps.length === 0) return 'Nothing differs.\n'
  const said = ({ told }: PlanStep, kind: 'opened' | 'cut', verb: string): string[] =>
    told.rows
      .filter((row) => row.kind === kind)
      .slice(0, MOST_ROWS)
      .map(({ from, to, on }) => `${verb} ${from} to ${to} on ${on}`)
  const head = gapless
    ? 'After every step everything that works before and after works, and nothing else does.'
    : `No order without a gap was found${complete ? '' : '; the search was ended, so one may exist'}. Steps with a gap say what is lost or open until it closes.`
  const lines = steps.flatMap((step, at) => [
    `${at + 1}. ${step.what[0]!.toUpperCase()}${step.what.slice(1)}`,
    ...step.changes.map(({ op, path }) => `   - \`${op} ${path}\``),
    ...[...said(step, 'opened', 'opens'), ...said(step, 'cut', 'cuts')].map(
      (text) => `   - ${text}`,
    ),
    ...step.gap.slice(0, 5).map((text) => `   - **gap:** ${text}`),
  ])
  return `# Plan for ${name}\n\n${head}\n\n${lines.join('\n')}\n`
}
