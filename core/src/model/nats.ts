import { addressOf, prefixOf } from '../address/prefix'
import { rangeSetOf } from '../address/ranges'
import { alike } from './alike'
import type { Compiling } from './compiling'
import type { Model, NatModel } from './model'
import { isUp, mapSection } from './sections'

/** Compiles every translator. */
export function compileNats(compiling: Compiling): readonly NatModel[] {
  const { estate, before, sameIndex, of, subnetUp } = compiling
  return mapSection(estate, 'nats', {
    before: before((model) => model.nats),
    holds: (old, { placement }) =>
      sameIndex('networks', 'subnets') &&
      old.up ===
        (isUp(old.source) && (placement?.subnet === undefined || subnetUp(placement.subnet))),
    make: (source, base): NatModel => ({
      ...base,
      up: base.up && (source.placement?.subnet === undefined || subnetUp(source.placement.subnet)),
      kind: source.kind ?? 'public',
      network: of('networks', source.network),
      subnet: of('subnets', source.placement?.subnet),
      region: source.placement?.region ?? null,
      addresses: (source.addresses ?? []).map(addressOf),
      rules: [...(source.rules ?? [])]
        .sort((a, b) => a.order - b.order)
        .map((rule) => ({
          order: rule.order,
          to: rangeSetOf(rule.to.map(prefixOf)),
          use: rule.use.map(addressOf),
        })),
      draining: new Set((source.draining ?? []).map(addressOf)),
      source,
    }),
  })
}

/**
 * Whether the translators of a kind are there, where and with the addresses they were; whether they
 * are up is not asked.
 */
export function sameNatAddresses(
  nats: readonly NatModel[],
  index: Model['index'],
  previous: Model | null,
  kind: NatModel['kind'],
): boolean {
  if (
    previous === null ||
    previous.index.nats !== index.nats ||
    previous.nats.length !== nats.length
  )
    return false
  return nats.every((nat, at) => {
    const old = previous.nats[at]!
    if (nat === old) return true
    if (nat.kind !== old.kind) return false
    return (
      nat.kind !== kind ||
      (nat.network === old.network &&
        alike(nat.addresses, old.addresses) &&
        alike(nat.rules, old.rules))
    )
  })
}
