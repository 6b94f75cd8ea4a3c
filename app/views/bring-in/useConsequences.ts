import type { Foreseen, SourceFile } from '@salt-trail/core'
import { ask as askRevision } from '~/api/request'
import type { Asked, Told } from '~/views/bring-in/consequences-worker'

/**
 * What files would bring about against a revision, computed in a worker of the browser before
 * anything is saved.
 */
export function useConsequences() {
  const found = shallowRef<Foreseen | null>(null)
  const milliseconds = ref(0)
  const state = ref<'none' | 'running' | 'done' | 'too-large' | 'failed'>('none')
  const message = ref('')
  let worker: Worker | null = null
  let begunFor = ''
  let number = 0

  function end(): void {
    worker?.terminate()
    worker = null
    begunFor = ''
    found.value = null
    state.value = 'none'
  }

  /** Shows nothing for now; what is known of the revision is kept for the next question. */
  function hide(): void {
    number++
    found.value = null
    state.value = 'none'
  }

  function hear({ data }: MessageEvent<Told>): void {
    if (data.kind === 'follows') {
      if (data.number !== number) return
      found.value = data.consequences
      milliseconds.value = data.milliseconds
      state.value = 'done'
    } else {
      state.value = data.kind
      message.value =
        data.kind === 'failed' ? data.message : `${data.subnets.toLocaleString('en-GB')} subnets`
    }
  }

  /** Asks what follows from files, against the revision they were compared with. */
  async function foresee(
    slug: string,
    revision: number,
    files: readonly SourceFile[],
  ): Promise<void> {
    const mine = ++number
    const ask = (asked: Asked): void => worker?.postMessage(asked)
    state.value = 'running'
    try {
      if (begunFor !== `${slug} ${revision}`) {
        worker?.terminate()
        worker = new Worker(new URL('./consequences-worker.ts', import.meta.url), {
          type: 'module',
        })
        worker.onmessage = hear
        worker.onerror = (event) =>
          hear({ data: { kind: 'failed', message: event.message } } as MessageEvent<Told>)
        begunFor = `${slug} ${revision}`
        const base = await askRevision({ base: `/api/estates/${slug}/${revision}`, path: 'files' })
        ask({ kind: 'begin', files: base.map(({ name, text }) => ({ name, text })) })
      }
      if (mine === number)
        ask({
          kind: 'change',
          number: mine,
          files: files.map(({ name, text }) => ({ name, text })),
        })
    } catch {
      begunFor = ''
      state.value = 'failed'
      message.value = 'the revision could not be fetched'
    }
  }
  onScopeDispose(end)
  return { found, milliseconds, state, message, foresee, hide }
}
