import type { Estate } from '../../src/index'
import { randomEstate } from './estate'
import { estateOfJson } from './read'

/** A random estate with what is asked of a whole one. */
export const estateWithPromises = (seed: number): Estate =>
  estateOfJson({
    ...randomEstate(seed).estate,
    groups: {
      some: {
        section: 'subnets',
        members: ['a-s0', 'b-s1'],
        where: { name: 'c-*' },
        except: ['c-s0'],
      },
      spokes: { section: 'networks', members: ['b', 'c', 'd'] },
    },
    parties: {
      broker: {
        ranges: ['198.51.100.80/32'],
        names: ['api.broker.example'],
        allowlist: ['203.0.113.100/32'],
      },
    },
    requiredTags: [{ section: 'subnets', keys: ['tier'], where: { name: '*-s1' } }],
    quotas: { routesPerTable: 5, peeringsPerNetwork: 2 },
    prices: { natHour: 1, natGigabyte: 1, crossZoneGigabyte: 1 },
    expectations: {
      apart: { from: 'networks/a', to: 'networks/d', must: 'never-reach' },
      inspected: {
        from: 'groups/some',
        to: 'internet',
        must: 'pass',
        by: ['firewalls/wall', 'firewalls/gate'],
      },
      quiet: { from: 'subnets/b-s0', to: 'internet', must: 'never-reach' },
      known: {
        from: 'networks/c',
        to: { party: 'broker' },
        must: 'appear-as',
        as: ['203.0.113.100/30'],
      },
    },
  })
