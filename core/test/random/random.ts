/** Randomness that can be repeated. */
export interface Random {
  /** A whole number from 0 to `below` − 1. */
  readonly number: (below: number) => number
  readonly pick: <T>(from: readonly T[]) => T
  readonly chance: (percent: number) => boolean
}

/** A small generator (mulberry32): the same seed gives the same estate on every machine. */
export function random(seed: number): Random {
  let state = seed >>> 0
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  const number = (below: number): number => Math.floor(next() * below)
  return {
    number,
    pick: (from) => from[number(from.length)]!,
    chance: (percent) => number(100) < percent,
  }
}
