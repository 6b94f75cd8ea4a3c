/** So many shares an analysis is cut into: enough that nobody waits long for the last. */
export const SHARES = 24
