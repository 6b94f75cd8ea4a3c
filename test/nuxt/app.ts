import { PiniaColada } from '@pinia/colada'
import { createPinia } from 'pinia'
import * as vue from 'vue'
import { createMemoryHistory, createRouter, useRoute, useRouter, type Router } from 'vue-router'
import { useSelectedSubnet } from '~/composables/useSelectedSubnet'
import { useAccount } from '~/stores/account'
import { useEstate } from '~/stores/estate'
import { useQuestions } from '~/stores/questions'

/** What the application's own modules use without importing it, and a server that is a function. */
export interface Served {
  readonly path: string
  readonly method: string
  readonly query: Readonly<Record<string, unknown>>
  readonly body: unknown
}
let answer: (asked: Served) => unknown = () => null
export const asked: Served[] = []

/** Answers every request from now on; what is thrown refuses it. */
export function serve(next: (asked: Served) => unknown): void {
  answer = next
  asked.length = 0
}

/** State that views share by name, as long as an application lives. */
const shared = new Map<string, vue.Ref<unknown>>()

const { ref, shallowRef, computed, watch, watchEffect, nextTick, shallowReactive } = vue
const { onScopeDispose } = vue
Object.assign(globalThis, {
  ...{ ref, shallowRef, computed, watch, watchEffect, nextTick, shallowReactive, onScopeDispose },
  ...{ useEstate, useQuestions, useAccount, useRoute, useRouter },
  useState: (name: string, first: () => unknown) => {
    if (!shared.has(name)) shared.set(name, vue.ref(first()))
    return shared.get(name)
  },
  useSelectedSubnet,
  $fetch: async (path: string, options: Partial<Served> = {}): Promise<unknown> => {
    const one = {
      path,
      method: options.method ?? 'GET',
      query: options.query ?? {},
      body: options.body ?? null,
    }
    asked.push(one)
    await Promise.resolve()
    return answer(one)
  },
})

/** Runs a composable or a store as a component of the application would, at an address. */
export async function inApp<T>(
  setup: () => T,
  address = '/',
): Promise<{ readonly result: T; readonly router: Router; readonly end: () => void }> {
  shared.clear()
  const app = vue.createApp({})
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:path(.*)*', component: {} }],
  })
  app.use(createPinia())
  app.use(PiniaColada, { queryOptions: { staleTime: Infinity, gcTime: false } })
  app.use(router)
  await router.push(address)
  const scope = vue.effectScope()
  const result = app.runWithContext(() => scope.run(setup)!)
  return { result, router, end: () => scope.stop() }
}

/** Waits until a condition holds; the test's own time limit ends a wait that is in vain. */
export async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await new Promise((resolve) => setTimeout(resolve, 1))
}

/** An error as the server's refusals come to the application. */
export const refusal = (statusCode: number, message: string): Error =>
  Object.assign(new Error(message), { statusCode, data: { data: { message } } })
