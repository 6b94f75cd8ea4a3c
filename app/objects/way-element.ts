/** The name of what a way leads through, in a sentence. */
export const wayElement = (ref: string): string =>
  ref === 'internet' ? 'the built-in door' : ref.slice(ref.indexOf('/') + 1)

/** What a way leads through, in order; empty where that is nothing. */
export const wayInOrder = (way: readonly string[]): string => way.map(wayElement).join(', then ')
