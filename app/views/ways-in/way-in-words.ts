import type { WayIn } from '@salt-trail/core'

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

/** What the packets pass, each way in one text. */
const throughText = (ways: readonly (readonly string[])[]): string[] =>
  ways.map(
    (one) =>
      one.map((ref) => (ref === 'internet' ? 'the built-in door' : nameOf(ref))).join(', then ') ||
      'local',
  )

/** A way in as a row of the table that is copied. */
export const wayInTexts = (way: WayIn): string[] => [
  sourceOf(way),
  nameOf(way.to),
  addressesOf(way).join(' '),
  portsOf(way).join(', '),
  throughText(way.ways).join('; '),
  way.rules.join('; '),
]
