import type { Estate } from '../format/estate'
import { isPresent } from '../model/sections'

/** What an estate costs by the hour before and after, in its own prices. */
export interface MoneyChange {
  readonly currency: string | null
  readonly before: number
  readonly after: number
}

/** Null where the later state has no prices, or costs what it did. Prices are those of later. */
export function moneyChange(before: Estate, after: Estate): MoneyChange | null {
  if (after.prices === null) return null
  const [was, is] = [hourly(before, after.prices), hourly(after, after.prices)]
  return was === is ? null : { currency: after.prices.currency ?? null, before: was, after: is }
}

/** What is there costs, whether it is up or not: NATs, reserved public addresses, endpoints. */
function hourly(estate: Estate, prices: NonNullable<Estate['prices']>): number {
  const count = (objects: ReadonlyMap<string, Parameters<typeof isPresent>[0]>): number =>
    [...objects.values()].filter((one) => isPresent(one)).length
  const sum =
    count(estate.nats) * (prices.natHour ?? 0) +
    count(estate.publicAddresses) * (prices.publicAddressHour ?? 0) +
    count(estate.endpoints) * (prices.endpointHour ?? 0)
  // Prices are written with few decimals; sums of them are not exact in binary.
  return Math.round(sum * 1e6) / 1e6
}
