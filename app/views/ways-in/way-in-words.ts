import type { WayIn } from '@salt-trail/core'
import { wayInOrder } from '~/objects/way-element'

const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** What is open, said once for all the sources that share it. */
export const portsOf = (way: WayIn): string[] => [
  ...new Set(
    way.packets.map(({ protocols, dstPorts }) => {
      const ports = dstPorts === null || dstPorts === '0-65535' ? '' : ` ${dstPorts}`
      return `${protocols?.join(', ') ?? 'every protocol'}${ports}`
    }),
  ),
]

export const addressesOf = (way: WayIn): string[] => [...new Set(way.packets.map((box) => box.dst))]

export const sourceOf = (way: WayIn): string =>
  way.from === 'internet' ? 'the internet' : nameOf(way.from)

/** A way in as a row of the table that is copied. */
export const wayInTexts = (way: WayIn): string[] => [
  sourceOf(way),
  nameOf(way.to),
  addressesOf(way).join(' '),
  portsOf(way).join(', '),
  way.ways.map((one) => wayInOrder(one) || 'local').join('; '),
  way.rules.join('; '),
]
