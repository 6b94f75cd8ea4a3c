/**
 * One operation of a change, as in RFC 6902; `path` is a JSON pointer into the estate's document.
 */
export type Operation =
  | { readonly op: 'add'; readonly path: string; readonly value: unknown }
  | { readonly op: 'replace'; readonly path: string; readonly value: unknown }
  | { readonly op: 'test'; readonly path: string; readonly value: unknown }
  | { readonly op: 'remove'; readonly path: string }

/** What is done to an estate: operations, one after the other. */
export type Change = readonly Operation[]

/** Why a change cannot be made. */
export interface ChangeFailure {
  /** The place of the operation in the change, from 0. */
  readonly operation: number
  readonly path: string
  /** What is wrong and what is there instead, as a sentence. */
  readonly message: string
}

export interface Failed {
  readonly ok: false
  readonly failure: ChangeFailure
}

/** A failure at an operation of a change. */
export const failed = (operation: number, path: string, message: string): Failed => ({
  ok: false,
  failure: { operation, path, message },
})
