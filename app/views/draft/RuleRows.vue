<script setup lang="ts">
import type { Peer, Rule } from '@salt-trail/core'
import type { FieldSchema } from '~/views/draft/field-schema'
import { termSchemaOf, termsHint, termsOf, termsText } from '~/views/draft/terms'
import { valueOfWord, wordsIn } from '~/views/draft/words-in'

/** The rules of a set as rows. Peers that a row cannot hold are left to the text. */
const props = defineProps<{
  rules: readonly Rule[]
  /** What a rule is made of. */
  schema: FieldSchema
}>()
const emit = defineEmits<{ change: [rules: readonly Rule[]] }>()

const value = (event: Event): string => (event.target as HTMLInputElement).value
const put = (at: number, more: Partial<Rule>): void =>
  emit(
    'change',
    props.rules.map((one, index) => (index === at ? ({ ...one, ...more } as Rule) : one)),
  )
const peers = computed(() => termSchemaOf(props.schema.properties?.peers ?? {}))
const peersOf = (text: string) => ((peers.value && termsOf(peers.value, text)) ?? []) as Peer[]
const portsIn = (text: string) => (text === '' ? undefined : wordsIn(text).map(valueOfWord))
</script>

<template>
  <div class="min-w-0">
    <div
      v-for="(rule, at) in rules"
      :key="at"
      class="grid grid-cols-[3.5rem_4rem_minmax(0,1fr)_minmax(0,1.6fr)_1.5rem] items-baseline gap-x-2 py-0.5"
    >
      <select
        class="border-b border-rule bg-paper"
        :value="rule.direction"
        :aria-label="`direction of rule ${at + 1}`"
        @change="put(at, { direction: value($event) as 'in' | 'out' })"
      >
        <option>in</option>
        <option>out</option>
      </select>
      <select
        class="border-b border-rule bg-paper"
        :value="String(rule.protocol ?? 'any')"
        :aria-label="`protocol of rule ${at + 1}`"
        @change="put(at, { protocol: value($event) as Rule['protocol'] })"
      >
        <option v-for="one in ['any', 'tcp', 'udp', 'icmp', 'icmpv6']" :key="one">{{ one }}</option>
        <option v-if="typeof rule.protocol === 'number'">{{ rule.protocol }}</option>
      </select>
      <TypedInput
        class="mono min-w-0 border-b border-rule bg-transparent placeholder:text-faint"
        :value="(rule.ports ?? []).join(', ')"
        placeholder="all ports"
        :aria-label="`ports of rule ${at + 1}`"
        @typed="put(at, { ports: portsIn($event) } as Partial<Rule>)"
      />
      <TypedInput
        v-if="termsText(rule.peers)"
        class="mono min-w-0 border-b border-rule bg-transparent placeholder:text-faint"
        :value="termsText(rule.peers)!.join(', ')"
        placeholder="anybody"
        :title="peers ? termsHint(peers) : ''"
        :aria-label="`peers of rule ${at + 1}`"
        @typed="put(at, { peers: peersOf($event) })"
      />
      <span v-else class="text-xs text-soft">peers: edit in the text</span>
      <button
        type="button"
        class="cursor-pointer text-faint hover:text-ink"
        :aria-label="`remove rule ${at + 1}`"
        @click="
          emit(
            'change',
            rules.filter((_, index) => index !== at),
          )
        "
      >
        ×
      </button>
    </div>
    <button
      type="button"
      class="cursor-pointer text-xs underline"
      @click="emit('change', [...rules, { direction: 'in', protocol: 'tcp' }])"
    >
      add a rule
    </button>
  </div>
</template>
