import { expect, test } from '@jest/globals'
import { shallowRef } from 'vue'
import { asked, inApp, serve, until, type Served } from './app'
import { useEstate } from '~/stores/estate'
import { useAcceptance } from '~/views/findings/useAcceptance'
import { findingsQuery, useFindings, type FindingsChosen } from '~/views/findings/useFindings'

const CHOSEN: FindingsChosen = {
  by: 'severity',
  family: null,
  severity: null,
  network: null,
  text: '',
}
const all = Array.from({ length: 450 }, (_, at) => ({ fingerprint: `f${at}`, accepted: null }))

function server({ path, query }: Served): unknown {
  if (path.endsWith('/outline')) return { slug: 'quay', revision: { number: 4 }, head: 4 }
  if (path.endsWith('/analysis')) return { state: 'done' }
  if (path.endsWith('/exits')) return { total: 0, rows: [] }
  if (path.endsWith('/expectations')) return { expectations: [] }
  if (!path.endsWith('/findings')) return {}
  const matching = query.family === 'leak' ? all.slice(0, 3) : all
  const from = Number(query.from)
  return {
    total: matching.length,
    groups: [],
    findings: matching.slice(from, from + Number(query.count)),
  }
}

async function shown(chosen: () => FindingsChosen) {
  serve(server)
  const { result } = await inApp(() => ({
    estate: useEstate(),
    list: useFindings(chosen),
    acceptance: useAcceptance(),
  }))
  await result.estate.show('quay', 'head')
  await until(() => result.list.found.value !== null)
  return result
}
const listed = ({ list }: Awaited<ReturnType<typeof shown>>): number =>
  list.found.value!.findings.length

test('only what is chosen is named to the server', () => {
  expect(findingsQuery({ ...CHOSEN, family: 'leak', text: ' tide ' })).toEqual({
    by: 'severity',
    family: 'leak',
    text: 'tide',
  })
})

test('findings come page by page until all are there', async () => {
  const result = await shown(() => CHOSEN)
  expect([listed(result), result.list.found.value!.total]).toEqual([200, 450])
  await result.list.more()
  await until(() => listed(result) === 400)
  await result.list.more()
  await until(() => listed(result) === 450)
  const before = asked.length
  await result.list.more()
  expect([listed(result), asked.length]).toEqual([450, before])
})

test('another choice is asked for, and stays beside the one before until it is there', async () => {
  const chosen = shallowRef(CHOSEN)
  const result = await shown(() => chosen.value)
  chosen.value = { ...CHOSEN, family: 'leak' }
  expect(listed(result)).toBe(200)
  await until(() => listed(result) === 3)
})

test('an accepted finding says so in the list, and the counts are asked for again', async () => {
  const result = await shown(() => CHOSEN)
  const acceptance = { reason: 'known', until: null }
  await result.acceptance.accept('f1', acceptance)
  expect(result.list.found.value!.findings[1]!.accepted).toEqual({
    ...acceptance,
    author: '',
    fingerprint: 'f1',
  })
  expect(result.list.found.value!.findings[0]!.accepted).toBeNull()
  const [put, counts] = asked.slice(-2)
  expect([put!.method, counts!.path]).toEqual(['PUT', '/api/estates/quay/head/analysis'])
  await result.acceptance.accept('f1', null)
  expect(result.list.found.value!.findings[1]!.accepted).toBeNull()
})
