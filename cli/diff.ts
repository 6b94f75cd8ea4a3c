import {
  compareEstates,
  compareWays,
  compile,
  findAll,
  type Finding,
  type ObjectChange,
  type WayChange,
  type WayText,
} from '@salt-trail/core'
import { FINE, FOUND, REFUSED } from './exit-status'
import { progressOnStderr } from './progress'
import { estateOrComplain } from './read-files'

interface Difference {
  readonly objects: readonly ObjectChange[]
  readonly ways: readonly WayChange[]
  readonly findings: { readonly gone: readonly Finding[]; readonly come: readonly Finding[] }
}

/** `salt-trail diff OLD NEW`: what changed, and what follows from it. */
export function diff(old: string, now: string, flags: { readonly json?: boolean }): number {
  const [before, after] = [estateOrComplain([old]), estateOrComplain([now])]
  if (!before || !after) return REFUSED
  const model = compile(before)
  const changed = compile(after, model)
  const [had, has] = [
    findAll(model, undefined, progressOnStderr())!.findings,
    findAll(changed, undefined, progressOnStderr())!.findings,
  ]
  const [hadNames, hasNames] = [had, has].map((list) => new Set(list.map((one) => one.fingerprint)))
  const difference: Difference = {
    objects: compareEstates(before, after),
    ways: compareWays(model, changed),
    findings: {
      gone: had.filter((one) => !hasNames!.has(one.fingerprint)),
      come: has.filter((one) => !hadNames!.has(one.fingerprint)),
    },
  }
  if (flags.json) process.stdout.write(`${JSON.stringify(difference, null, 2)}\n`)
  else print(difference)
  const { gone, come } = difference.findings
  return difference.objects.length + difference.ways.length + gone.length + come.length > 0
    ? FOUND
    : FINE
}

const wayText = (way: WayText | null): string =>
  way === null
    ? 'nothing'
    : way.cause
      ? `lost (${way.cause.code} at ${way.cause.object})`
      : way.way.join(' > ') || 'local'

function print({ objects, ways, findings }: Difference): void {
  const line = (text: string): void => void process.stdout.write(`${text}\n`)
  line(`Objects: ${objects.length === 0 ? 'none changed' : ''}`)
  for (const { object, kind, keys } of objects)
    line(`  ${kind.padEnd(8)} ${object}${keys.length > 0 ? `: ${keys.join(', ')}` : ''}`)
  line(`Ways: ${ways.length === 0 ? 'none changed' : ''}`)
  for (const { subnet, ranges, before, after } of ways)
    line(
      `  ${subnet.slice('subnets/'.length)} to ${ranges.slice(0, 4).join(', ')}${ranges.length > 4 ? ` and ${ranges.length - 4} more` : ''}: ${wayText(before)} becomes ${wayText(after)}`,
    )
  line(`Findings: ${findings.gone.length} gone, ${findings.come.length} come`)
  for (const one of findings.gone) line(`  gone  ${one.severity} ${one.code} ${one.anchor}`)
  for (const one of findings.come)
    line(`  come  ${one.severity} ${one.code} ${one.anchor}: ${one.sentence}`)
}
