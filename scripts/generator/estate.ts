import { random } from '../../core/test/random/random'
import { estateOf, newDraft, type Draft, type GeneratedEstate, type Json } from './draft'
import { addNetwork, hubOf, placeOf, type Place } from './network'
import { publicAddress, REGIONS, subnetAddress, subnetRange, zonesOf, type Size } from './plan'

/** An estate of a given size with every kind of object: the same seed makes the same one. */
export function generateEstate(size: Size, seed: number): GeneratedEstate {
  const r = random(seed)
  const draft = newDraft()
  const places = Array.from({ length: size.networks }, (_, number) =>
    placeOf(number, size.networks),
  )
  const regions = REGIONS.filter((region) => places.some((place) => place.region === region))
  for (const region of regions) draft.put('regions', region, { zones: zonesOf(region) })
  for (const place of places) addNetwork(draft, r, size, place, places)
  for (const region of regions) addRegion(draft, size, region, regions, places)
  addOutside(draft, regions)
  addOverall(draft, places)
  return estateOf(draft, `Made for measuring, seed ${seed}`, overallLists)
}

/**
 * The router of a region, its firewall in the hub, an inline gate, and peerings of the default-open
 * spokes.
 */
function addRegion(
  draft: Draft,
  size: Size,
  region: string,
  regions: readonly string[],
  places: readonly Place[],
): void {
  const hub = hubOf(region)
  const own = places.filter((place) => place.region === region)
  const hubNumber = own[0]!.number
  const attachments: Json = {}
  for (const place of own)
    attachments[place.id] = {
      network: place.id,
      subnets: [3, 4, 5].map((subnet) => `${place.id}-s${subnet}`),
      table: 'main',
    }
  attachments.harbour = { gateway: `${region}-circuit`, table: 'main' }
  for (const other of regions)
    if (other !== region) attachments[`to-${other}`] = { transit: `${other}-router`, table: 'main' }
  const elsewhere = places.filter((place) => place.region !== region)
  const far = elsewhere.map((place) => ({
    to: `10.${place.number >> 5}.${(place.number & 31) << 3}.0/21`,
    via: `to-${place.region}`,
  }))
  draft.put('transits', `${region}-router`, {
    attachments,
    tables: { main: { learn: 'all', routes: far } },
  })
  draft.put('sites', `${region}-harbour`, {
    ranges: [`172.20.${REGIONS.indexOf(region as (typeof REGIONS)[number])}.0/24`],
  })
  draft.put('gateways', `${region}-circuit`, {
    kind: 'private',
    network: hub,
    site: `${region}-harbour`,
    announces: ['10.0.0.0/8'],
  })

  const walls = ['inside', 'outside'].map((label, index) => {
    const id = `${region}-wall-${label}`
    draft.put('interfaces', id, {
      host: `${region}-wall`,
      subnet: `${hub}-s${index}`,
      addresses: [subnetAddress(hubNumber, index, 40)],
      forwards: true,
      ...(label === 'outside' ? { publicAddress: publicAddress(hubNumber * 32 + 30) } : {}),
    })
    return [label, id] as const
  })
  draft.put('firewalls', `${region}-wall`, {
    style: 'routed',
    interfaces: Object.fromEntries(walls),
    routes: [
      { to: '0.0.0.0/0', via: { address: subnetAddress(hubNumber, 1, 1) } },
      { to: '10.0.0.0/8', via: { address: subnetAddress(hubNumber, 0, 1) } },
    ],
    policy: Array.from({ length: 200 }, (_, i) => ({
      order: (i + 1) * 10,
      from: [subnetRange(own[i % own.length]!.number, i % size.subnetsPerNetwork)],
      protocol: 'tcp',
      ports: [i % 2 === 0 ? 443 : 8443],
      action: 'allow',
    })),
    sourceTranslation: [{ fromSide: 'inside', toSide: 'outside', use: 'interface' }],
  })
  draft.put('firewalls', `${region}-gate`, {
    style: 'inline',
    network: hub,
    endpoints: Object.fromEntries(
      zonesOf(region).map((zone, index) => [zone, { subnet: `${hub}-s${index + 3}` }]),
    ),
    policy: [{ order: 10, protocol: 'tcp', ports: [443], action: 'allow' }],
  })
  draft.put('frontends', `${region}-front`, {
    network: hub,
    subnets: [`${hub}-s2`],
    publicAddresses: [publicAddress(hubNumber * 32 + 31)],
    privateAddresses: [subnetAddress(hubNumber, 2, 50)],
    listeners: [
      { protocol: 'tcp', port: 443, targets: [3, 4].map((subnet) => `${hub}-s${subnet}-h0`) },
    ],
  })
  for (const place of own) {
    if (place.behaviour !== 'default-open') continue
    draft.put('peerings', `${place.id}-hub`, {
      a: { network: place.id, usesPeerGateway: true },
      b: { network: hub, acceptsForwarded: true, lendsGateway: true },
    })
  }
  draft.put('services', `${region}-store`, {
    region,
    ranges: [`198.51.100.${REGIONS.indexOf(region as (typeof REGIONS)[number]) * 8}/29`],
    names: [`*.store.${region}.example`],
  })
}

function addOutside(draft: Draft, regions: readonly string[]): void {
  for (let i = 0; i < 20; i++) {
    draft.put('parties', `broker-${i}`, {
      ranges: [`198.51.100.${64 + i * 4}/30`],
      names: [`api.broker-${i}.example`],
    })
  }
  draft.put('prefixLists', 'harbours', { ranges: regions.map((_, i) => `172.20.${i}.0/24`) })
  const wide = (low: number): Json => ({
    stateful: false,
    rules: [
      { order: 100, direction: 'in', action: 'allow', peers: ['any'] },
      {
        order: 110,
        direction: 'out',
        action: 'allow',
        protocol: 'tcp',
        ports: [80, 443, `${low}-65535`],
        peers: ['any'],
      },
    ],
  })
  draft.put('ruleSets', 'wide-list', wide(1024))
  draft.put('ruleSets', 'short-list', wide(60000))
}

function addOverall(draft: Draft, places: readonly Place[]): void {
  draft.put('nameZones', 'measure.internal', {
    records: Object.fromEntries(
      places
        .slice(0, 100)
        .map(({ id, number }) => [`${id}.measure.internal`, [subnetAddress(number, 3, 10)]]),
    ),
    linkedTo: places.map(({ id }) => id),
  })
  draft.put('groups', 'spokes', { section: 'networks', where: { name: '*-spoke-*' } })
  draft.put('expectations', 'cards-stay-home', {
    from: { tag: 'scope=cards' },
    to: 'internet',
    must: 'never-reach',
  })
}

const overallLists: Json = {
  estateRules: [
    {
      order: 1,
      direction: 'in',
      action: 'deny',
      protocol: 'tcp',
      ports: [3389],
      peers: ['internet'],
      appliesTo: 'all',
    },
    {
      order: 2,
      direction: 'in',
      action: 'defer',
      protocol: 'tcp',
      ports: [443],
      appliesTo: ['groups/spokes'],
    },
  ],
}
