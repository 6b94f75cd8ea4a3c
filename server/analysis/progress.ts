/** How far an analysis is: what it looks at, and how many of all steps are done. */
export interface Progress {
  readonly about: string
  readonly done: number
  readonly of: number
}
