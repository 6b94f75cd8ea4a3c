import { expect, test } from '@jest/globals'
import { nextTick, ref, shallowReactive } from 'vue'
import { inApp, refusal, serve, until } from './app'
import { useEditedObject } from '~/views/draft/useEditedObject'

/** An object edited in a draft whose versions can be moved on, and what the server has of it. */
async function edited(known: (base: string) => object | null) {
  const estate = shallowReactive({
    fixedBase: '/api/estates/quay/draft-1.1',
    outline: { draft: {} },
  })
  const object = ref('prices')
  serve(({ path, query }) => {
    const found = known(path)
    if (found === null) throw refusal(404, 'there is no such object')
    return { ...found, ref: query.ref }
  })
  const { result, end } = await inApp(() => {
    Object.assign(globalThis, { useEstate: () => estate })
    return useEditedObject(() => object.value)
  })
  return { estate, object, result, end }
}

test('an object that is not there yet stays on screen while the draft goes on', async () => {
  const { estate, result, end } = await edited(() => null)
  expect([result.page.value, result.isNew.value]).toEqual([null, false])
  await until(() => result.isNew.value)
  estate.fixedBase = '/api/estates/quay/draft-1.2'
  await nextTick()
  expect(result.isNew.value).toBe(true)
  await new Promise((resolve) => setTimeout(resolve, 10))
  expect([result.page.value, result.isNew.value]).toEqual([null, true])
  end()
})

test('it is new no more once it is added, and new again once it is taken out', async () => {
  const isThere = (base: string): boolean => base.includes('draft-1.2')
  const { estate, result, end } = await edited((base) => (isThere(base) ? { text: '' } : null))
  await until(() => result.isNew.value)
  estate.fixedBase = '/api/estates/quay/draft-1.2'
  await until(() => result.page.value !== null)
  expect(result.isNew.value).toBe(false)
  estate.fixedBase = '/api/estates/quay/draft-1.3'
  await until(() => result.isNew.value)
  expect(result.page.value).toBeNull()
  end()
})

test('of another object nothing is known at first', async () => {
  const { object, result, end } = await edited(() => null)
  await until(() => result.isNew.value)
  object.value = 'nats/tide'
  await nextTick()
  expect(result.isNew.value).toBe(false)
  await until(() => result.isNew.value)
  end()
})
