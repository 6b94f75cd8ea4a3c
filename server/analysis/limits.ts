import { availableParallelism } from 'node:os'

/** Longer than this no analysis runs, and no share of a large one; in seconds. */
export const analysisSeconds = (): number => Number(process.env.SALT_TRAIL_ANALYSIS_SECONDS ?? 900)

/** How much memory one analysis may take, or one process that finds shares of large ones. */
export const analysisMegabytes = (): number => Number(process.env.SALT_TRAIL_ANALYSIS_MEGABYTES ?? 6_144)

/** Documents from this size on are analysed in shares, by processes. */
export const sharesFromBytes = (): number => Number(process.env.SALT_TRAIL_SHARES_FROM_MEGABYTES ?? 48) * 2 ** 20

/** So many processes find shares of large analyses: one for each core but the server's own. */
export const shareProcesses = (): number => Number(process.env.SALT_TRAIL_ANALYSIS_PROCESSES ?? Math.max(1, availableParallelism() - 1))

/** So many shares an analysis is cut into: enough that nobody waits long for the last. */
export const SHARES = 24
