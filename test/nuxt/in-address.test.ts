import { expect, test } from '@jest/globals'
import { nextTick } from 'vue'
import { inApp } from './app'
import { choiceInAddress, textInAddress } from '~/composables/inAddress'

const settled = async (): Promise<void> => {
  for (let at = 0; at < 10; at++) await nextTick()
  await new Promise((resolve) => setTimeout(resolve, 2))
}

test('a text is read from the address, and the fallback stands for none', async () => {
  const { result } = await inApp(
    () => [textInAddress('at', 'replace'), textInAddress('to', 'push', 'internet')],
    '/quay/head/map?at=nats/tide',
  )
  expect(result.map((one) => one.value)).toEqual(['nats/tide', 'internet'])
})

test('what is set stands in the address beside the rest; the fallback is left out', async () => {
  const { result: to, router } = await inApp(
    () => textInAddress('to', 'push', 'internet'),
    '/quay?half=seen',
  )
  to.value = 'party:bank'
  await settled()
  expect(router.currentRoute.value.query).toEqual({ half: 'seen', to: 'party:bank' })
  to.value = ''
  await settled()
  expect([to.value, router.currentRoute.value.query]).toEqual(['internet', { half: 'seen' }])
})

test('two texts set at once both stand in the address', async () => {
  const { result, router } = await inApp(() => [
    textInAddress('hosts', 'replace', '1'),
    textInAddress('range', 'replace'),
  ])
  result[0]!.value = '2'
  result[1]!.value = '10.0.0.0'
  await settled()
  expect(router.currentRoute.value.query).toEqual({ hosts: '2', range: '10.0.0.0' })
})

test.each(['push', 'replace'] as const)(
  '%s: going back undoes a choice, not a move',
  async (step) => {
    const { result: text, router } = await inApp(() => textInAddress('find', step), '/quay')
    text.value = 'tide'
    await settled()
    router.back()
    await settled()
    // After a replacement there is nothing to go back to.
    expect(text.value).toBe(step === 'push' ? '' : 'tide')
  },
)

test('a choice that is none of its texts is the fallback', async () => {
  const { result: by } = await inApp(
    () => choiceInAddress('by', 'push', ['network', 'zone'], 'network'),
    '/quay?by=colour',
  )
  expect(by.value).toBe('network')
  by.value = 'zone'
  await settled()
  expect(by.value).toBe('zone')
})

test('a text that is set while another view is on its way is not written, and holds nothing up', async () => {
  const { result: at, router } = await inApp(() => textInAddress('at', 'replace'), '/quay/exits')
  let lead = (): void => undefined
  router.beforeEach(() => new Promise<void>((resolve) => (lead = resolve)))
  const going = router.push('/quay/draft')
  await settled()
  at.value = 'nats/tide'
  await settled()
  lead()
  expect(await going).toBeUndefined()
  expect(router.currentRoute.value.fullPath).toBe('/quay/draft')
})

test('a text is written again once a navigation has failed', async () => {
  const { result: at, router } = await inApp(() => textInAddress('at', 'replace'), '/quay/exits')
  router.beforeEach(({ path }) => path !== '/quay/draft')
  await router.push('/quay/draft')
  at.value = 'nats/tide'
  await settled()
  expect(router.currentRoute.value.fullPath).toBe('/quay/exits?at=nats/tide')
})

test('a view that is gone writes nothing into the address of its successor', async () => {
  const {
    result: at,
    router,
    end,
  } = await inApp(() => textInAddress('at', 'replace'), '/quay/exits')
  end()
  at.value = 'nats/tide'
  await settled()
  expect(router.currentRoute.value.fullPath).toBe('/quay/exits')
})
