/** Why a worker cannot do what is asked; sent to the caller as the route's refusal. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(message)
  }
}

/** The same as it passes between threads. */
export interface RefusedJson {
  readonly status: number
  readonly code: string
  readonly message: string
  readonly more: Record<string, unknown>
}

export const refusedJson = ({ status, code, message, more }: Refused): RefusedJson => ({
  status,
  code,
  message,
  more,
})
