import { writeObject } from '../../cli/write-object'

const written = (object: Record<string, unknown>): string => {
  let text = ''
  writeObject(object, (part) => (text += part))
  return text
}

test('an object is written as JSON with two spaces an indent', () => {
  const object = {
    ok: true,
    nothing: null,
    text: 'a "b"\nc',
    inner: { list: [1, { deep: [] }] },
    list: [{ a: 1 }, [], 'x', [2, 3]],
    empty: [],
  }
  expect(written(object)).toBe(`${JSON.stringify(object, null, 2)}\n`)
})

test('a list may be made while it is written, and what is undefined is left out', () => {
  function* numbers(): Iterable<number> {
    yield 1
    yield 2
  }
  expect(JSON.parse(written({ made: numbers(), none: undefined }))).toEqual({ made: [1, 2] })
})

test('an empty object is one', () => expect(JSON.parse(written({}))).toEqual({}))
