import { expect, test } from '@jest/globals'
import { asked, inApp, refusal, serve, type Served } from './app'
import { useAccount } from '~/stores/account'
import { useEstate } from '~/stores/estate'
import { useSelectedSubnet } from '~/composables/useSelectedSubnet'
import { useViews, VIEWS } from '~/composables/useViews'
import { useFetchedCells } from '~/views/exits/useFetchedCells'

const way = { kind: 'direct', by: 'gateways/door', way: ['gateways/door'], ranges: null, family: 4 }
const row = (subnet: string) => ({
  subnet,
  ...{ internet: [way], services: [], sites: [], otherNetworks: [], sameNetwork: [] },
})

function server({ path, query }: Served): unknown {
  if (path.endsWith('/outline'))
    return { slug: 'quay', revision: { number: 4 }, head: 4, subnets: [{ id: 'front' }], ends: [] }
  if (path.endsWith('/analysis')) return { state: 'none' }
  const subnets = String(query.subnets).split(',')
  if (path.endsWith('/entries')) return { rows: subnets.map(row) }
  return { rows: subnets.map((subnet) => ({ subnet, cells: [[way]] })) }
}

async function shown<T>(setup: () => T, address = '/quay/head/exits') {
  serve(server)
  const made = await inApp(() => ({ estate: useEstate(), own: setup() }), address)
  await made.result.estate.show('quay', 'head')
  asked.length = 0
  return made
}

test('cells that come into sight are fetched once', async () => {
  const { own } = (await shown(useFetchedCells)).result
  expect(own.cellAt('front', 'entering', 'internet', null, undefined)).toBeNull()
  await own.fetchEntering(['front', 'back'])
  await own.fetchEntering(['back', 'front'])
  expect(asked.map(({ query }) => query.subnets)).toEqual(['front,back'])
  const cell = own.cellAt('front', 'entering', 'internet', null, undefined)
  expect(cell?.ways).toHaveLength(1)
})

test('members of an open column are cells of their own, by direction', async () => {
  const { own } = (await shown(useFetchedCells)).result
  await own.fetchMembers('leaving', 'sites', ['office'], ['front'])
  expect(own.cellAt('front', 'leaving', 'sites', 'office', undefined)?.ways).toHaveLength(1)
  expect(own.cellAt('front', 'entering', 'sites', 'office', undefined)).toBeNull()
  expect(asked[0]!.query).toEqual({
    column: 'sites',
    turned: 'leaving',
    members: 'office',
    subnets: 'front',
  })
})

test('cells that could not be fetched are asked for again, and those of another revision are gone', async () => {
  const { estate, own } = (await shown(useFetchedCells)).result
  serve(() => {
    throw refusal(503, 'the database is not there')
  })
  await own.fetchEntering(['front'])
  expect(own.failure.value).toBe('the database is not there')
  serve(server)
  await own.fetchEntering(['front'])
  expect([own.failure.value, asked.length]).toEqual([null, 1])
  await estate.show('quay', '3')
  await new Promise((resolve) => setTimeout(resolve, 2))
  expect(own.cellAt('front', 'entering', 'internet', null, undefined)).toBeNull()
})

test('a view is linked with what was chosen in the others', async () => {
  const { estate, own } = (
    await shown(
      () => ({ ...useViews(), selected: useSelectedSubnet() }),
      '/quay/head/trace?from=interface:till&to=internet',
    )
  ).result
  const linkTo = (name: string) => own.linkTo(VIEWS.find((view) => view.name === name)!)
  expect(linkTo('exits')).toEqual({ path: '/quay/head/exits', query: {} })
  expect(linkTo('trace').query).toEqual({ from: 'interface:till', to: 'internet' })
  own.selected.value = 'front'
  expect([linkTo('next-hops').query, linkTo('map').query]).toEqual([
    { subnet: 'front' },
    { at: 'subnets/front' },
  ])
  own.selected.value = 'of another estate'
  expect(linkTo('ways-in').query).toEqual({})
  expect(estate.slug).toBe('quay')
})

test('the keys of the views are the digits, each once', () => {
  expect(VIEWS.map(({ key }) => key)).toEqual([...'1234567809'])
  expect(new Set(VIEWS.map(({ name }) => name)).size).toBe(VIEWS.length)
})

test('who is at the screen has no name, and the theme of the system, until they say so', async () => {
  const { own } = (await shown(useAccount)).result
  expect([own.name, own.theme]).toEqual(['', 'system'])
})
