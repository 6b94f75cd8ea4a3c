import { containsAddress, parseAddress, parsePrefix } from '@salt-trail/core'
import type { Outline } from '~/api/answers'
import { choicesNamed, complete, type EndChoice } from './question-text'

/** Everything that leads to a subnet: itself, and the hosts in it. */
export const subnetChoices = ({ ends }: Pick<Outline, 'ends'>): EndChoice[] =>
  ends.filter(({ end, home }) => end.startsWith('subnet:') || home !== undefined)

/** The subnet of a choice. */
export const subnetOf = ({ id, home }: EndChoice): string => home ?? id

/**
 * The subnet that a text names: by its id, a host in it, an address it holds, or the beginning of
 * one thing's name; null where that is none or several. Linear in the subnets for an address.
 */
export function subnetNamed(
  text: string,
  choices: readonly EndChoice[],
  subnets: Outline['subnets'],
): string | null {
  const word = text.trim()
  const named = choicesNamed(word, choices)
  const subnet = named.find(({ end }) => end.startsWith('subnet:')) ?? named[0]
  if (subnet) return subnetOf(subnet)
  if (parseAddress(word) !== null) return subnetHolding(word, subnets)
  const meant = new Set(complete(word, choices).map(subnetOf))
  return word !== '' && meant.size === 1 ? [...meant][0]! : null
}

function subnetHolding(text: string, subnets: Outline['subnets']): string | null {
  const address = parseAddress(text)!
  const lengthIn = ({ ranges }: Outline['subnets'][number]): number =>
    Math.max(
      -1,
      ...ranges.flatMap((range) => {
        const prefix = parsePrefix(range)
        return !('fault' in prefix) && containsAddress(prefix, address) ? [prefix.length] : []
      }),
    )
  const holding = subnets
    .map((subnet) => ({ id: subnet.id, length: lengthIn(subnet) }))
    .filter(({ length }) => length >= 0)
  holding.sort((a, b) => b.length - a.length)
  return holding[0]?.id ?? null
}
