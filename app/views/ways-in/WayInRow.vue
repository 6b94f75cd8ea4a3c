<script setup lang="ts">
import type { WayIn } from '@salt-trail/core'
import { addressesOf, portsOf, sourceOf } from '~/views/ways-in/way-in-words'

/** Who comes in from outside, to whom, on what, through what, and the rules that let it in. */
defineProps<{
  way: WayIn
  /** What the rules may name. */
  objects: readonly string[]
  /** What becomes of it, where two states are compared. */
  fate?: { readonly sign: string; readonly text: string } | undefined
}>()
const ask = useAsk()
</script>

<template>
  <tr class="border-b border-hair align-top">
    <td class="py-1.5 pl-4" :class="way.from === 'internet' ? 'font-semibold' : ''">
      <span v-if="fate" class="block text-xs font-normal text-draft"
        ><span class="mono" aria-hidden="true">{{ fate.sign }}</span> {{ fate.text }}</span
      >
      <ObjectName v-if="way.from.includes('/')" :of="way.from" />
      <template v-else>{{ sourceOf(way) }}</template>
    </td>
    <td class="py-1.5 pr-3">
      <ObjectName :of="way.to" />
      <span class="mono block text-soft">{{ addressesOf(way).slice(0, 3).join('  ') }}</span>
    </td>
    <td class="mono py-1.5 pr-3">
      <span v-for="port in portsOf(way).slice(0, 6)" :key="port" class="block">{{ port }}</span>
    </td>
    <td class="py-1.5 pr-3">
      <WayNames
        v-for="(one, index) in way.ways.slice(0, 3)"
        :key="index"
        class="block"
        :way="one"
        none="local"
      />
    </td>
    <td class="py-1.5 pr-4 text-soft">
      <NamedText
        v-for="rule in way.rules"
        :key="rule"
        class="block"
        :text="rule"
        :objects="[way.to, ...objects]"
      />
      <button
        type="button"
        class="cursor-pointer border-b border-ink text-ink"
        @click="
          ask({
            from: way.packet.src,
            to: way.packet.dst,
            protocol: way.packet.protocol,
            port: way.packet.dstPort,
          })
        "
      >
        trace one packet
      </button>
    </td>
  </tr>
</template>
