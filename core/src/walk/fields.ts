import { boxWith, type Field, type PacketBox } from '../packet/packet-set'

/**
 * The packets for which a walk would have been the very same: a box around the packet that is
 * walked, in the fields it began with. Every condition a step puts to a packet narrows it; a field
 * that was translated on the way is a constant by then, and asking it narrows nothing.
 *
 * This is what makes one walk stand for a set of packets, so that the same code answers one
 * question and all of them. (In the manner of concolic execution: Godefroid, Klarlund, Sen,
 * "DART", 2005; with boxes for path conditions.)
 */
export interface Scope {
  box: {
    -readonly [F in Field]: PacketBox[F]
  }
}

/** A scope that begins with a box of packets. */
export const scopeOf = (box: PacketBox): Scope => ({ box: boxWith(box, {}) })

/**
 * Which field of the first packet each field of the packet still is; null once it was translated.
 */
export type Fields = {
  readonly [F in Exclude<Field, 'protocol'>]: Exclude<Field, 'protocol'> | null
}

export const OWN_FIELDS: Fields = { src: 'src', dst: 'dst', srcPort: 'srcPort', dstPort: 'dstPort' }
