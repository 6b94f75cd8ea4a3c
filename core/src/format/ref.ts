/** `section/id` in two; the id may hold slashes of its own. */
export function splitRef(ref: string): [section: string, id: string] {
  const slash = ref.indexOf('/')
  return [ref.slice(0, slash), ref.slice(slash + 1)]
}
