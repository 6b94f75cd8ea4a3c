import { exposureOf, talkBetween, type Model } from '@salt-trail/core'
import type { SizeName } from '../generator/plan'

/** So many pairs of networks are looked at: every pair of a large estate takes very long. */
const PAIRS_OF_NETWORKS = 12

/** What the whole estate lets in from outside, and what networks can send to each other. */
export function benchExposure(
  name: SizeName,
  model: Model,
  row: (what: string, value: string) => void,
): void {
  const hosts = [...model.index.interfaces.values()]
  const begun = performance.now()
  const openings = hosts.reduce((sum, host) => sum + exposureOf(model, host).openings.length, 0)
  const whole = performance.now() - begun
  row(
    `${name}: what is reached from outside, of ${hosts.length} hosts`,
    `${(whole / 1000).toFixed(1)} s, ${openings} ways in`,
  )
  const networks = [...model.index.networks.values()]
  const pairs = networks
    .flatMap((from) => networks.flatMap((to) => (from === to ? [] : [[from, to] as const])))
    .slice(0, PAIRS_OF_NETWORKS)
  const start = performance.now()
  pairs.forEach((pair) => talkBetween(model, pair))
  const each = (performance.now() - start) / pairs.length
  row(`${name}: what hosts of one network can send to those of another`, `${each.toFixed(0)} ms`)
}
