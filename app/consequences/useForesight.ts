import type { Operation, Problem } from '@salt-trail/core'
import { failureText } from '~/api/failure-text'
import type { Asked, Follows, NextState, Told } from '~/consequences/worker'

/** `comparing`: all is known but packets. */
export type ForesightState =
  'none' | 'running' | 'comparing' | 'done' | 'invalid' | 'too-large' | 'failed'

interface ForeseenBy {
  readonly consequences: Follows
  readonly milliseconds: number
}

/**
 * What another state of a revision would bring about, computed in a worker of the browser before
 * anything is saved. While one is computed, only the latest that is asked for meanwhile is kept.
 */
export function useForesight() {
  const found = shallowRef<Follows | null>(null)
  const milliseconds = ref(0)
  const state = ref<ForesightState>('none')
  const message = ref('')
  const problems = shallowRef<readonly Problem[]>([])
  let worker: Worker | null = null
  let begunFor = ''
  let number = 0
  let isBusy = false
  let waiting: NextState | null = null
  let onServer: Promise<void> = Promise.resolve()

  function end(): void {
    worker?.terminate()
    worker = null
    begunFor = ''
    isBusy = false
    waiting = null
    found.value = null
    state.value = 'none'
  }

  /** Shows nothing for now; what is known of the revision is kept for the next question. */
  function hide(): void {
    number++
    waiting = null
    found.value = null
    state.value = 'none'
  }

  function hear({ data }: MessageEvent<Told>): void {
    isBusy = false
    if (data.kind === 'too-large') {
      state.value = 'too-large'
      message.value = `${data.subnets.toLocaleString('en-GB')} subnets`
      return
    }
    if (waiting) return send()
    if (data.number !== number && data.number !== 0) return
    if (data.kind === 'follows') {
      found.value = data.consequences
      milliseconds.value = data.milliseconds
      state.value = data.consequences.packets === null ? 'comparing' : 'done'
    } else if (data.kind === 'invalid') {
      problems.value = data.problems
      state.value = 'invalid'
    } else {
      message.value = data.message
      state.value = 'failed'
    }
  }

  function send(): void {
    const next = waiting
    if (!worker || !next || isBusy) return
    waiting = null
    isBusy = true
    // What is handed over is plain: a reactive object cannot be passed to a worker.
    const asked: Asked = { kind: 'change', number, next: JSON.parse(JSON.stringify(next)) }
    worker.postMessage(asked)
  }

  /** Asks what follows from another state, against a revision. */
  async function foresee(slug: string, revision: number, next: NextState): Promise<void> {
    number++
    waiting = next
    if (state.value === 'too-large' && begunFor === `${slug} ${revision}`) return
    state.value = 'running'
    if (begunFor === `${slug} ${revision}`) return send()
    worker?.terminate()
    isBusy = true
    begunFor = `${slug} ${revision}`
    const mine = begunFor
    try {
      const document = await $fetch<string>(`/api/estates/${slug}/${revision}/document`, {
        query: { notation: 'json' },
        responseType: 'text',
      })
      if (mine !== begunFor) return
      worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })
      worker.onmessage = hear
      worker.onerror = (event) =>
        hear({ data: { kind: 'failed', number: 0, message: event.message } } as MessageEvent<Told>)
      worker.postMessage({ kind: 'begin', document } satisfies Asked)
      isBusy = false
      send()
    } catch {
      if (mine !== begunFor) return
      begunFor = ''
      isBusy = false
      state.value = 'failed'
      message.value = 'the revision could not be fetched'
    }
  }
  /** The same, asked of the server, which keeps what is known of a large estate. */
  async function foreseeOnServer(path: string, pending: readonly Operation[]): Promise<void> {
    const mine = ++number
    state.value = 'running'
    // One at a time: of those that come meanwhile only the latest is asked.
    await onServer
    if (mine !== number) return
    const answer = serverAnswer(path, pending, mine)
    onServer = answer
    await answer
  }

  async function serverAnswer(
    path: string,
    pending: readonly Operation[],
    mine: number,
  ): Promise<void> {
    try {
      // Packets are compared in turns, between which a newer change comes first.
      for (let packets = 'later'; ; packets = 'more') {
        const told = await $fetch<ForeseenBy>(path, { method: 'POST', body: { pending, packets } })
        if (mine !== number) return
        found.value = told.consequences
        milliseconds.value = told.milliseconds
        state.value = told.consequences.packets === null ? 'comparing' : 'done'
        if (state.value === 'done') return
      }
    } catch (error) {
      if (mine !== number) return
      const said = (error as { data?: { data?: { errors?: Problem[] } } }).data?.data
      problems.value = said?.errors ?? []
      message.value = failureText(error)
      state.value = said?.errors ? 'invalid' : 'failed'
    }
  }
  onScopeDispose(end)
  return { found, milliseconds, state, message, problems, foresee, foreseeOnServer, hide }
}
