import { addressOf } from '../address/prefix'
import type { Compiling } from './compiling'
import type { InterfaceModel } from './model'
import { sameStates } from './networks'
import { isUp, mapSection } from './sections'

/** Compiles every interface. */
export function compileInterfaces(compiling: Compiling): readonly InterfaceModel[] {
  const { estate, previous, before, sameIndex, same, of, all, subnetUp } = compiling
  return mapSection(estate, 'interfaces', {
    before: before((model) => model.interfaces),
    allHold:
      same('networks') &&
      sameIndex('subnets', 'ruleSets') &&
      sameStates(previous!.estate.subnets, estate.subnets),
    holds: (old, source) =>
      sameIndex('ruleSets') &&
      old.subnet === of('subnets', source.subnet) &&
      old.up === (isUp(source) && subnetUp(source.subnet)),
    make: (source, base): InterfaceModel => ({
      ...base,
      up: base.up && subnetUp(source.subnet),
      subnet: of('subnets', source.subnet),
      addresses: (source.addresses ?? []).map(addressOf),
      publicAddress: source.publicAddress === undefined ? null : addressOf(source.publicAddress),
      host: source.host ?? base.id,
      ruleSets: all('ruleSets', source.ruleSets),
      localRules: of('ruleSets', source.localRules),
      forwards: source.forwards ?? false,
      source,
    }),
  })
}
