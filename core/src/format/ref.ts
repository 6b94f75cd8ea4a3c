/**
 * `section/id` in two; the id may hold slashes of its own. What is named by its section alone, such
 * as the prices, has no id.
 */
export function splitRef(ref: string): [section: string, id: string] {
  const slash = ref.indexOf('/')
  return slash < 0 ? [ref, ''] : [ref.slice(0, slash), ref.slice(slash + 1)]
}

/** Where an object stands in the document: under its id, or as a whole section. */
export const pathOfRef = (ref: string): string[] => (ref.includes('/') ? splitRef(ref) : [ref])
