import { expect, test } from '@jest/globals'
import { nextTick, shallowReactive } from 'vue'
import { asked, inApp, serve, until } from './app'
import { useDraftForesight } from '~/stores/foresight'
import { MOST_SUBNETS_FORESEEN } from '~/consequences/limits'
import { useForesight } from '~/consequences/useForesight'

/** An estate of some size, as far as what is foreseen of a draft asks for it. */
const outline = (subnets: number) => ({ subnets: Array.from({ length: subnets }, () => ({})) })

test.each([
  [MOST_SUBNETS_FORESEEN + 1, '/api/estates/quay/drafts/1/foresight'],
  [MOST_SUBNETS_FORESEEN, '/api/estates/quay/4/document'],
])(
  'what follows from a draft of an estate with %i subnets is asked for once that is known: %s',
  async (subnets, path) => {
    serve(() => ({ consequences: { packets: { rows: [] } }, milliseconds: 5 }))
    const estate = shallowReactive<{ slug: string; outline: unknown }>({
      ...{ slug: 'quay', outline: null },
    })
    const open = { version: 2, base: 4, baseIsThere: true, patch: [] }
    const draft = { id: 1, draft: open, path: '/api/estates/quay/drafts/1' }
    Object.assign(globalThis, { useDraft: () => draft })
    const { result: foresight, end } = await inApp(() => {
      Object.assign(globalThis, { useEstate: () => estate })
      const store = useDraftForesight()
      store.wantWhile(() => true)
      return store
    })
    await nextTick()
    expect([asked, foresight.state]).toEqual([[], 'none'])
    estate.outline = outline(subnets)
    await nextTick()
    await new Promise((resolve) => setTimeout(resolve, 5))
    expect(asked.map((one) => one.path)).toEqual([path])
    end()
  },
)

test('what the server knows at once is shown, then the packets, unless a newer change comes', async () => {
  const packets = { rows: [] }
  const compared = new Map<string, number>()
  serve(async ({ body }) => {
    await new Promise((resolve) => setTimeout(resolve, 5))
    const { pending, packets: wanted } = body as { pending: object[]; packets: string }
    const key = JSON.stringify(pending)
    const turns = (compared.get(key) ?? 0) + (wanted === 'more' ? 1 : 0)
    compared.set(key, turns)
    return { consequences: { of: key, packets: turns < 3 ? null : packets }, milliseconds: turns }
  })
  const { result: foresight, end } = await inApp(() => useForesight())
  const asking = foresight.foreseeOnServer('/foresight', [])
  await until(() => foresight.state.value === 'comparing')
  expect(foresight.found.value).toEqual({ of: '[]', packets: null })
  const newer = foresight.foreseeOnServer('/foresight', [{ op: 'test', path: '', value: 1 }])
  await Promise.all([asking, newer])
  expect(compared.get('[]')).toBeLessThan(3)
  expect([foresight.state.value, foresight.found.value?.packets]).toEqual(['done', packets])
  expect(asked.map(({ body }) => (body as { packets: string }).packets).slice(-4)).toEqual([
    'later',
    'more',
    'more',
    'more',
  ])
  end()
})
