import type { Operation } from '@salt-trail/core'

const OPS = { add: '+', replace: '±', remove: '−', test: '=' } as const

/** A change in one line: what is done, where, and with what. */
export function changeLine(change: Operation): string {
  const where = change.path
    .slice(1)
    .replaceAll('/', ' › ')
    .replaceAll('~1', '/')
    .replaceAll('~0', '~')
  return change.op === 'remove'
    ? `${OPS.remove} ${where}`
    : `${OPS[change.op]} ${where}: ${valueText(change.value)}`
}

function valueText(value: unknown): string {
  if (typeof value !== 'object' || value === null) return String(value)
  if (Array.isArray(value)) return `[${value.map(valueText).join(', ')}]`
  const entries = Object.entries(value).map(([key, inner]) => `${key}: ${valueText(inner)}`)
  return `{ ${entries.join(', ')} }`
}
