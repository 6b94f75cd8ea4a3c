/** How many shares an analysis is cut into: enough that processes finish at about the same time. */
export const SHARES = 24
