/**
 * Writes an object as JSON with two spaces an indent, one member of a list at a time: lists may be
 * longer than a text can be. A list may be any iterable.
 */
export function writeObject(
  object: Readonly<Record<string, unknown>>,
  write: (text: string) => unknown,
): void {
  const indented = (value: unknown, by: string): string =>
    JSON.stringify(value, null, 2).replaceAll('\n', `\n${by}`)
  let before = '{\n'
  for (const [key, value] of Object.entries(object)) {
    if (value === undefined) continue
    write(`${before}  ${JSON.stringify(key)}: `)
    before = ',\n'
    if (!isIterable(value)) {
      write(indented(value, '  '))
      continue
    }
    let open = '[\n'
    for (const one of value) {
      write(`${open}    ${indented(one, '    ')}`)
      open = ',\n'
    }
    write(open === '[\n' ? '[]' : '\n  ]')
  }
  write(before === '{\n' ? '{}\n' : '\n}\n')
}

const isIterable = (value: unknown): value is Iterable<unknown> =>
  typeof value === 'object' && value !== null && Symbol.iterator in value
