import { expect, test } from '@jest/globals'
import { shallowRef } from 'vue'
import { asked, inApp, refusal, serve, until } from './app'
import type { Asked } from '~/api/request'
import { keyOf, useAnswer } from '~/api/useAnswer'

const hops = (subnet: string, base = '/api/estates/quay/4'): Asked<'hops'> => ({
  base,
  path: 'hops',
  query: { subnet },
})

test('a question is asked once, however many show its answer', async () => {
  serve(({ query }) => ({ subnet: query.subnet, kinds: [] }))
  const { result } = await inApp(() => [1, 2].map(() => useAnswer(() => hops('front'))))
  expect(result[0]!.answer.value).toBeNull()
  await until(() => result.every(({ answer }) => answer.value !== null))
  expect(asked).toEqual([
    { path: '/api/estates/quay/4/hops', method: 'GET', query: { subnet: 'front' }, body: null },
  ])
})

test('another question is asked when it changes; an earlier one is known already', async () => {
  serve(({ query }) => ({ subnet: query.subnet, kinds: [] }))
  const subnet = shallowRef('front')
  const { result } = await inApp(() => useAnswer(() => hops(subnet.value)))
  for (const next of ['front', 'back', 'front']) {
    subnet.value = next
    await until(() => result.answer.value?.subnet === next)
  }
  expect(asked.map(({ query }) => query.subnet)).toEqual(['front', 'back'])
})

test('nothing is asked where there is no question, and its answer is gone', async () => {
  serve(({ query }) => ({ subnet: query.subnet, kinds: [] }))
  const question = shallowRef<Asked<'hops'> | null>(null)
  const { result } = await inApp(() => useAnswer(() => question.value))
  await new Promise((resolve) => setTimeout(resolve, 5))
  expect([asked.length, result.answer.value, result.isLoading.value]).toEqual([0, null, false])
  question.value = hops('front')
  await until(() => result.answer.value !== null)
  question.value = null
  expect(result.answer.value).toBeNull()
})

test('a refusal is a failure in the server’s words until another question is asked', async () => {
  serve(({ query }) => {
    if (query.subnet === 'gone') throw refusal(404, 'there is no subnet gone')
    return { subnet: query.subnet, kinds: [] }
  })
  const subnet = shallowRef('gone')
  const { result } = await inApp(() => useAnswer(() => hops(subnet.value)))
  await until(() => result.failure.value !== null)
  expect([result.failure.value, result.answer.value]).toEqual(['there is no subnet gone', null])
  subnet.value = 'front'
  await until(() => result.answer.value !== null)
  expect(result.failure.value).toBeNull()
})

test('a question with a body is posted, and is cached by its body', async () => {
  serve(() => ({ verdict: 'works' }))
  const body = { from: 'interface:till', to: 'internet' }
  const trace: Asked<'trace'> = { base: '/api/estates/quay/4', path: 'trace', body }
  const { result } = await inApp(() => useAnswer(() => trace))
  await until(() => result.answer.value !== null)
  expect(asked[0]).toMatchObject({ method: 'POST', body })
  expect(keyOf(trace)).not.toEqual(keyOf({ ...trace, body: { ...body, to: 'site:office' } }))
  expect(keyOf(hops('a'))).not.toEqual(keyOf(hops('a', '/api/estates/quay/5')))
})
