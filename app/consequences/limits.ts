/** Larger estates are foreseen by the server, which has more memory than a browser. */
export const MOST_SUBNETS_FORESEEN = 2_000
