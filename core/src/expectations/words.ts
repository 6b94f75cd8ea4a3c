import type { Expectation } from './selection'

/**
 * What an expectation says of which packets, in one line: `tag scope=cards to internet, tcp 443`.
 */
export function expectationText({
  from,
  to,
  except,
  protocol,
  ports,
  by,
  as,
}: Expectation): string {
  const parts = [
    `${from === undefined ? 'anything' : selectionText(from)} to ${to === undefined ? 'anything' : selectionText(to)}`,
    except === undefined ? '' : `except ${selectionText(except)}`,
    [protocol ?? '', (ports ?? []).join(', ')].join(' ').trim(),
    by ? `by ${by.join(' or ')}` : '',
    as ? `as ${as.join(' or ')}` : '',
  ]
  return parts.filter((part) => part !== '').join('; ')
}

function selectionText(selection: unknown): string {
  if (typeof selection === 'string') return selection
  if (Array.isArray(selection)) return selection.map(selectionText).join(' or ')
  const { any, except, ...conditions } = selection as Record<string, unknown>
  const words = Object.entries(conditions).map(([key, value]) => `${key} ${String(value)}`)
  if (any !== undefined) words.push(selectionText(any))
  return `${words.join(' and ')}${except === undefined ? '' : ` but not ${selectionText(except)}`}`
}
