import { expect, test } from '@jest/globals'
import { nextTick, shallowReactive } from 'vue'
import { asked, inApp, serve } from './app'
import { useDraftForesight } from '~/stores/foresight'
import { MOST_SUBNETS_FORESEEN } from '~/consequences/limits'

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
