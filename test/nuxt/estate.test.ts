import { expect, test } from '@jest/globals'
import { asked, inApp, refusal, serve, until, type Served } from './app'
import { useEstate } from '~/stores/estate'

const outline = (number: number) => ({ slug: 'quay', revision: { number }, head: number })
const rows = (count: number) => Array.from({ length: count }, (_, at) => ({ subnet: `s${at}` }))

/** A server with one estate whose analysis is done after some looks. */
function server({ looks = 0, total = 3, number = 4 } = {}) {
  let left = looks
  const all = rows(total)
  return ({ path, method, query }: Served): unknown => {
    if (path.endsWith('/outline')) return outline(number)
    if (path.endsWith('/analysis') && method === 'DELETE') return { state: 'stopped' }
    if (path.endsWith('/analysis')) return { state: left-- > 0 ? 'running' : 'done' }
    if (path.endsWith('/exits')) {
      const from = Number(query.from)
      return { total, rows: all.slice(from, from + 2) }
    }
    if (path.endsWith('/expectations')) return { expectations: [{ id: 'e' }] }
    if (path === '/api/estates') return [{ slug: 'quay' }, { slug: 'pier' }]
    throw refusal(404, 'there is no such thing')
  }
}

test('showing a revision fetches its outline, waits for its analysis, and takes all rows', async () => {
  serve(server({ looks: 2 }))
  const { result: estate } = await inApp(useEstate)
  await estate.show('quay', 'head')
  expect([estate.isDone, estate.exits, estate.expectations]).toEqual([true, rows(3), [{ id: 'e' }]])
  expect(asked.filter(({ path }) => path.endsWith('/analysis'))).toHaveLength(3)
  expect(
    asked.filter(({ path }) => path.endsWith('/exits')).map(({ query }) => query.from),
  ).toEqual([0, 2])
})

test('a revision is named by its number once that is known', async () => {
  serve(server({ number: 7 }))
  const { result: estate } = await inApp(useEstate)
  const shown = estate.show('quay', 'head')
  expect([estate.base, estate.fixedBase]).toEqual(['/api/estates/quay/head', null])
  await shown
  expect(estate.fixedBase).toBe('/api/estates/quay/7')
  expect(estate.baseOf('2')).toBe('/api/estates/quay/2')
})

test('what is shown already is not fetched again, unless that is asked for', async () => {
  serve(server())
  const { result: estate } = await inApp(useEstate)
  await estate.show('quay', 'head')
  const before = asked.length
  await estate.show('quay', 'head')
  expect(asked.length).toBe(before)
  await estate.show('quay', 'head', true)
  expect(asked.length).toBeGreaterThan(before)
})

test('an answer about an estate that is no longer shown is left aside', async () => {
  serve(server())
  const { result: estate } = await inApp(useEstate)
  const first = estate.show('quay', 'head')
  serve(({ path }) => (path.endsWith('/outline') ? outline(9) : { state: 'none' }))
  const second = estate.show('pier', '9')
  await Promise.all([first, second])
  expect([estate.slug, estate.outline?.revision.number, estate.exits]).toEqual(['pier', 9, null])
})

test('a refusal is told in the server’s words, and one without words as no answer', async () => {
  serve(() => {
    throw refusal(404, 'there is no estate quay')
  })
  const { result: estate } = await inApp(useEstate)
  await estate.show('quay', 'head')
  expect(estate.failure).toBe('there is no estate quay')
  serve(() => {
    throw new Error('fetch failed')
  })
  await estate.show('pier', 'head')
  expect(estate.failure).toBe('The server does not answer. Is it running?')
})

test('an analysis can be stopped while it runs, and begun again', async () => {
  let state = 'running'
  const rest = server()
  serve((one) => {
    if (!one.path.endsWith('/analysis')) return rest(one)
    if (one.method === 'DELETE') state = 'stopped'
    if (one.method === 'POST') state = 'done'
    return { state }
  })
  const { result: estate } = await inApp(useEstate)
  const shown = estate.show('quay', 'head')
  await until(() => estate.analysis?.state === 'running')
  await estate.stop()
  await shown
  expect([estate.analysis?.state, estate.exits]).toEqual(['stopped', null])
  await estate.analyseAgain()
  expect([estate.isDone, estate.exits]).toEqual([true, rows(3)])
})

test('the estate looked at last is the first to be shown, else the first there is', async () => {
  serve(server())
  const { result: estate } = await inApp(useEstate)
  expect(await estate.lastOrFirst()).toBe('quay')
  serve(() => [])
  expect(await estate.lastOrFirst()).toBeNull()
})
