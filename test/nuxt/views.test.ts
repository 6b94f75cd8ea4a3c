import { expect, test } from '@jest/globals'
import { asked, inApp, serve, until, type Served } from './app'
import { useEstate } from '~/stores/estate'
import { useQuestions } from '~/stores/questions'
import { useAsk } from '~/composables/useAsk'
import { useOfSubnet } from '~/composables/useOfSubnet'
import { useRevisions } from '~/composables/useRevisions'
import { useShown } from '~/composables/useShown'
import { useHistory } from '~/views/revisions/useHistory'

const branch = { verdict: 'blocked', cause: { code: 'no-route' } }
const counted = new Set<number>()

function server({ path, query }: Served): unknown {
  if (path.endsWith('/outline'))
    return {
      slug: 'quay',
      revision: { number: 4 },
      head: 4,
      subnets: [{ id: 'front' }, { id: 'back' }],
      ends: [{ end: 'interface:till', id: 'till', about: '' }],
    }
  if (path.endsWith('/analysis')) return { state: 'none' }
  if (path.endsWith('/hops')) return { subnet: query.subnet, kinds: [] }
  if (path.endsWith('/trace'))
    return { verdict: 'blocked', branches: [{ verdict: 'works' }, branch] }
  if (path.endsWith('/revisions')) return [{ number: 4 }, { number: 3 }]
  if (path.endsWith('/history'))
    return [4, 3].map((number) => ({ number, counts: counted.has(number) ? {} : null }))
  if (path.endsWith('/findings')) counted.add(Number(/(\d+)\/findings$/.exec(path)![1]))
  return {}
}

async function shown<T>(setup: () => T, address = '/quay/head') {
  serve(server)
  const made = await inApp(() => ({ estate: useEstate(), own: setup() }), address)
  await made.result.estate.show('quay', 'head')
  return made
}

test('a view of a subnet begins with the one in the address, else with the first', async () => {
  const named = await shown(() => useOfSubnet('hops'), '/quay/head/next-hops?subnet=back')
  await until(() => named.result.own.answer.value?.subnet === 'back')
  const first = await shown(() => useOfSubnet('hops'))
  await until(() => first.result.own.answer.value?.subnet === 'front')
})

test('a second subnet may be of another revision, and is none where none is named', async () => {
  const { result, router } = await shown(() => useOfSubnet('hops', 'with'))
  expect([result.own.subnet.value, result.own.answer.value]).toEqual(['', null])
  await router.push('/quay/head/next-hops?with=back&of=2')
  await until(() => result.own.answer.value !== null)
  expect(asked.at(-1)!.path).toBe('/api/estates/quay/2/hops')
})

test('what shows a finding is the branch that gives its trace the verdict', async () => {
  const { result } = await shown(() => useShown(() => ({ from: 'interface:till', to: 'internet' })))
  await until(() => result.own.branch.value !== null)
  expect(result.own.branch.value).toEqual(branch)
  expect(asked.at(-1)!.body).toMatchObject({ protocol: 'tcp', port: 443, continue: true })
})

test('revisions are those of the estate on screen', async () => {
  const { result } = await shown(useRevisions)
  await until(() => result.own.revisions.value.length === 2)
  expect([result.own.revisions.value[0]!.number, result.own.failure.value]).toEqual([4, null])
})

test('revisions that were not analysed are, one after the other', async () => {
  const { result } = await shown(useHistory)
  await until(() => result.own.history.value !== null)
  expect(result.own.history.value!.map(({ counts }) => counts)).toEqual([null, null])
  await result.own.analyseAll()
  expect(result.own.history.value!.map(({ counts }) => counts)).toEqual([{}, {}])
  expect([result.own.analysing.value, result.own.failure.value]).toEqual([false, ''])
})

test('a question of another view stands in the bar, is remembered, and its trace is shown', async () => {
  const went: string[] = []
  const { result, router } = await shown(() => ({ ask: useAsk(), questions: useQuestions() }))
  router.afterEach(({ fullPath }) => void went.push(fullPath))
  result.own.ask({ from: 'interface:till', to: 'internet' })
  expect(result.own.questions.text).toEqual({ from: 'till', to: 'internet', over: 'tcp 443' })
  expect(result.own.questions.history).toHaveLength(1)
  await until(() => went.length === 1)
  result.own.ask({ from: 'interface:till', to: 'internet', protocol: 'icmp', port: null })
  await until(() => went.length === 2)
  expect(went).toEqual([
    '/quay/head/trace?from=interface:till&to=internet&over=tcp+443',
    '/quay/head/trace?from=interface:till&to=internet&over=icmp',
  ])
})
