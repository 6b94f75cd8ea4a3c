import { useRouteQuery } from '@vueuse/router'
import type { Ref } from 'vue'
import type {
  RouteLocationNormalized,
  RouteLocationNormalizedLoaded,
  RouteLocationRaw,
  Router,
} from 'vue-router'

/**
 * Whether a change leaves a step to go back to (`push`): choosing does, moving and typing do not.
 */
export type Step = 'push' | 'replace'

/** Where a router is about to lead; null while it leads nowhere. */
interface Destination {
  to: RouteLocationNormalized | null
}
const destinations = new WeakMap<Router, Destination>()

function destinationOf(router: Router): Destination {
  const known = destinations.get(router)
  if (known) return known
  const destination: Destination = { to: null }
  // A navigation that a later one replaced ends after that has begun.
  const end = (to: RouteLocationNormalized): void => {
    if (destination.to === to) destination.to = null
  }
  destinations.set(router, destination)
  router.beforeEach((to) => void (destination.to = to))
  router.afterEach(end)
  router.onError((_, to) => end(to))
  return destination
}

const writers = new WeakMap<RouteLocationNormalizedLoaded, Router>()

/**
 * The router as a view writes its state with it: a view that is being left writes nothing, since
 * that would end the navigation which leaves it, or write into the address of the next view. All
 * texts of a view have one, so that those which change together are written together.
 */
function writerOf(route: RouteLocationNormalizedLoaded, router: Router): Router {
  const known = writers.get(route)
  if (known) return known
  const destination = destinationOf(router)
  const isLeft = (): boolean => {
    const now = router.currentRoute.value
    return now.path !== route.path || (destination.to ?? now).path !== route.path
  }
  const write = (step: Step) => async (to: RouteLocationRaw) =>
    isLeft() ? undefined : await router[step](to)
  const writer: Router = { ...router, push: write('push'), replace: write('replace') }
  writers.set(route, writer)
  return writer
}

/**
 * A text as long as its view is there: what a view that is gone had put off would be written into
 * the address of the next one.
 */
function whileThere<T>(text: Ref<T>): Ref<T> {
  let isThere = true
  onScopeDispose(() => (isThere = false))
  return computed({
    get: () => text.value,
    set: (now) => {
      if (isThere) text.value = now
    },
  })
}

/** How a value is read from what stands in the address, and what is written there for it. */
interface Transform<T> {
  readonly get: (text: string | null) => T
  readonly set: (value: T) => T
}

function inAddress<T extends string>(
  key: string,
  step: Step,
  fallback: NoInfer<T>,
  transform: Transform<T>,
): Ref<T> {
  const route = useRoute()
  const router = writerOf(route, useRouter())
  const options = { mode: step, route, router, transform }
  return whileThere(useRouteQuery<string | null, T>(key, fallback, options))
}

/**
 * A text of a view that stands in its address, so that a link shows the same and going back undoes
 * it. What is left out of the address is the fallback.
 */
export const textInAddress = (key: string, step: Step, fallback = ''): Ref<string> =>
  inAddress<string>(key, step, fallback, {
    get: (text) => (typeof text === 'string' && text !== '' ? text : fallback),
    set: (text) => (text === '' ? fallback : text),
  })

/** The same for one of some texts; any other text in the address is taken as the fallback. */
export const choiceInAddress = <T extends string>(
  key: string,
  step: Step,
  choices: readonly T[],
  fallback: NoInfer<T>,
): Ref<T> =>
  inAddress<T>(key, step, fallback, {
    get: (text) => choices.find((one) => one === text) ?? fallback,
    set: (choice) => choice,
  })
