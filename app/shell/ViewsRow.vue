<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'

const { views, linkTo } = useViews()
const estate = useEstate()
const route = useRoute()
const router = useRouter()
const current = computed(() => views.find((view) => route.path.endsWith(`/${view.name}`))?.name)

onKeyStroke(
  views.map((view) => view.key),
  (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return
    const view = views.find((candidate) => candidate.key === event.key)
    if (view && estate.slug) void router.push(linkTo(view))
  },
)
// A view's state is in the page's address, so going back undoes a change.
onKeyStroke('u', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return
  router.back()
})
</script>

<template>
  <nav
    aria-label="Views"
    class="flex items-stretch gap-[22px] overflow-x-auto overflow-y-hidden border-b border-rule px-4 whitespace-nowrap max-lg:gap-[13px]"
  >
    <template v-if="estate.slug">
      <NuxtLink
        v-for="view in views"
        :key="view.name"
        :to="linkTo(view)"
        :aria-current="current === view.name ? 'page' : undefined"
        class="flex items-center border-b-[3px] pt-[3px]"
        :class="
          current === view.name
            ? 'border-ink font-semibold text-ink'
            : 'border-transparent text-soft hover:text-ink'
        "
      >
        <span
          class="mr-1.5 font-mono text-xs font-normal text-faint max-lg:hidden"
          aria-hidden="true"
          >{{ view.key }}</span>{{ view.title }}
      </NuxtLink>
    </template>
    <NuxtLink
      to="/reference"
      :aria-current="route.path === '/reference' ? 'page' : undefined"
      class="ml-auto flex items-center border-b-[3px] pt-[3px]"
      :class="
        route.path === '/reference'
          ? 'border-ink font-semibold text-ink'
          : 'border-transparent text-soft hover:text-ink'
      "
      >Reference</NuxtLink
    >
    <NuxtLink
      :to="{ path: '/bring-in', query: estate.slug ? { into: estate.slug } : {} }"
      :aria-current="route.path === '/bring-in' ? 'page' : undefined"
      class="flex items-center border-b-[3px] pt-[3px]"
      :class="
        route.path === '/bring-in'
          ? 'border-ink font-semibold text-ink'
          : 'border-transparent text-soft hover:text-ink'
      "
      >Bring in</NuxtLink
    >
  </nav>
</template>
