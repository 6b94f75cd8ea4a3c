import type { NetworkModel } from '../model/model'

/**
 * How a one-to-one translation at a network's doors is named, so that any door of that network can
 * undo it.
 */

export const oneToOneOf = (network: NetworkModel): string => `${network.ref}${ONE_TO_ONE}`
const ONE_TO_ONE = ' one to one'

/** The id of the network whose doors did a translation, or null if another element did it. */

export const oneToOneNetwork = (by: string): string | null =>
  by.endsWith(ONE_TO_ONE) ? by.slice('networks/'.length, -ONE_TO_ONE.length) : null
