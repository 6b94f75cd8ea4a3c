/** Words in a text with commas or spaces between. */
export const wordsIn = (text: string): string[] =>
  text.split(/[\s,]+/).filter((word) => word !== '')

/** A word as the value it stands for: a number where it is one. */
export const valueOfWord = (word: string): string | number =>
  /^\d+$/.test(word) ? Number(word) : word
