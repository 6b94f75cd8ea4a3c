/** A JSON pointer (RFC 6901) from its parts. */
export const pointer = (...parts: readonly (string | number)[]): string =>
  parts.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('')

/** The parts of a JSON pointer; null where the text is none. */
export function pointerParts(text: string): readonly string[] | null {
  if (text === '') return []
  if (!text.startsWith('/') || /~(?![01])/.test(text)) return null
  return text
    .slice(1)
    .split('/')
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'))
}

/** Whether a pointer leads to a place inside that of another. */
export const isInside = (path: string, outer: string): boolean => path.startsWith(`${outer}/`)
