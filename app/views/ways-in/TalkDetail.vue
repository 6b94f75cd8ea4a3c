<script setup lang="ts">
import type { Talk } from '@salt-trail/core'
import { expectationQuery } from '~/views/expectations/written'

/** What the hosts of one network can send to those of another, with one packet that shows it. */
const props = defineProps<{ talk: Talk }>()
const estate = useEstate()
const ask = useAsk()
const isOpen = computed(() => props.talk.open.length > 0 || props.talk.unanswered.length > 0)
const expect = (must: 'never-reach' | 'reach') => ({
  path: `/${estate.slug}/${estate.revision}/expectations`,
  query: expectationQuery(
    {
      from: `network:${props.talk.from}`,
      to: `network:${props.talk.to}`,
      ...(must === 'reach' && props.talk.shown
        ? { protocol: props.talk.shown.packet.protocol, port: props.talk.shown.packet.dstPort }
        : { protocol: 'any' }),
    },
    must,
  ),
})
function trace(): void {
  const { packet } = props.talk.shown!
  ask({ from: packet.src, to: packet.dst, protocol: packet.protocol, port: packet.dstPort })
}
</script>

<template>
  <aside
    class="overflow-y-auto border-l border-rule bg-paper p-4"
    aria-label="Between two networks"
  >
    <h2 class="mb-2 font-semibold">
      <ObjectName :of="`networks/${talk.from}`" /> to <ObjectName :of="`networks/${talk.to}`" />
    </h2>
    <p class="mb-2 text-soft">
      {{ talk.hosts.from }} {{ talk.hosts.from === 1 ? 'host' : 'hosts' }} to {{ talk.hosts.to }},
      every packet<template v-if="talk.isCut">
        that was looked at in time; there may be more</template
      >.
    </p>
    <template v-if="talk.open.length > 0">
      <h3 class="text-xs text-soft">can talk on</h3>
      <ul class="mono mb-2">
        <li v-for="one in talk.open" :key="one">{{ one }}</li>
      </ul>
    </template>
    <template v-if="talk.unanswered.length > 0">
      <h3 class="text-xs text-soft">arrives, and is never answered</h3>
      <ul class="mono mb-2">
        <li v-for="one in talk.unanswered" :key="one">{{ one }}</li>
      </ul>
    </template>
    <p v-if="!isOpen && !talk.isCut" class="mb-2">No packet gets from the one to the other.</p>
    <template v-if="talk.shown">
      <h3 class="text-xs text-soft">one packet</h3>
      <p class="mono">{{ talk.shown.packet.src }} → {{ talk.shown.packet.dst }}</p>
      <p class="mb-1">
        there by <WayNames :way="talk.shown.way" none="nothing in between" /><template
          v-if="talk.shown.wayBack"
          >, back by <WayNames :way="talk.shown.wayBack" none="nothing in between"
        /></template>
      </p>
      <button type="button" class="cursor-pointer underline" @click="trace">trace it</button>
    </template>
    <p class="mt-3 flex flex-col items-start gap-1">
      <span class="text-xs text-soft">expect this</span>
      <NuxtLink v-if="talk.open.length > 0" class="underline" :to="expect('reach')"
        >they must reach each other so</NuxtLink
      >
      <NuxtLink class="underline" :to="expect('never-reach')">{{
        isOpen ? 'they must never reach each other' : 'it must stay so'
      }}</NuxtLink>
    </p>
  </aside>
</template>
