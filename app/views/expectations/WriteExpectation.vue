<script setup lang="ts">
import { pointer } from '@salt-trail/core'
import { parse } from 'yaml'
import { idsWritten, MUSTS, writtenText, type Written } from '~/views/expectations/written'
import type { RevisionAnswer } from '~/api/answers'
import { ask } from '~/api/request'
import { failureText } from '~/api/failure-text'

/** A new expectation, in a small form or as text: proved as it stands before it is saved. */
const emit = defineEmits<{ kept: []; close: [] }>()
const estate = useEstate()
const router = useRouter()
const account = useAccount()
const { query } = useRoute()
const given = (key: string): string => (typeof query[key] === 'string' ? query[key] : '')
const form = ref<Written>({
  id: '',
  must: MUSTS.find(({ must }) => must === given('must'))?.must ?? 'never-reach',
  from: given('from'),
  to: given('to'),
  except: '',
  over: given('over'),
  named: given('named'),
})
const asText = ref(false)
const text = ref('')
const ends = computed(() => estate.outline?.ends ?? [])
const names = computed(() => MUSTS.find((one) => one.must === form.value.must)!.names)
const written = computed(() => (asText.value ? text.value : writtenText(form.value, ends.value)))
function turn(): void {
  if (!asText.value) text.value = writtenText(form.value, ends.value)
  asText.value = !asText.value
}

/** Words for both ends that this estate knows. */
const WORDS_SHOWN = 400
const words = computed(() => {
  const { subnets, networks, members } = estate.outline!
  const roles = [...new Set(subnets.flatMap(({ role }) => role ?? []))]
  return [
    'internet',
    ...roles.map((role) => `role ${role}`),
    ...networks.map(({ id }) => `network ${id}`),
    ...members.sites.map((id) => `site ${id}`),
    ...members.services.map((id) => `service ${id}`),
    ...ends.value.map(({ id }) => id),
  ].slice(0, WORDS_SHOWN)
})

const proved = shallowRef<RevisionAnswer<'prove'> | null>(null)
const failure = ref('')
const busy = ref(false)
watch(written, () => {
  proved.value = null
  failure.value = ''
})
const ready = computed(() =>
  asText.value
    ? text.value.trim() !== ''
    : form.value.id.trim() !== '' && (form.value.from.trim() !== '' || form.value.to.trim() !== ''),
)

async function prove(): Promise<void> {
  busy.value = true
  failure.value = ''
  const asked = written.value
  try {
    const found = await ask({ base: estate.base, path: 'prove', body: { text: asked } })
    if (asked === written.value) proved.value = found
  } catch (error) {
    failure.value = failureText(error)
  } finally {
    busy.value = false
  }
}

const draft = useDraft()
const isDraft = computed(() => estate.outline?.draft != null)
/** Adds it to the draft that is on screen. */
async function keepInDraft(): Promise<void> {
  const { expectations } = parse(written.value) as { expectations: Record<string, unknown> }
  const patch = Object.entries(expectations).map(([id, value]) => ({
    op: 'add' as const,
    path: pointer('expectations', id),
    value,
  }))
  const made = await draft.change(`expect ${Object.keys(expectations).join(', ')}`, patch)
  if (made) emit('kept')
  else failure.value = draft.failure
}
const isHead = computed(
  () => !isDraft.value && estate.outline?.revision.number === estate.outline?.head,
)
const canKeep = computed(() => (proved.value?.expectations?.length ?? 0) > 0 && isHead.value)
/** The newest files with this one beside them become the next revision. */
async function keep(): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    const path = `/api/estates/${estate.slug}`
    const given = await ask({ base: `${path}/head`, path: 'files' })
    const id = idsWritten(written.value)[0] ?? 'written'
    const files = [...given, { name: `expectation-${id}.yaml`, text: written.value }]
    const note = `expects ${idsWritten(written.value).join(', ') || 'something more'}`
    await $fetch(`${path}/revisions`, {
      method: 'POST',
      body: { files, note, base: estate.outline!.head },
    })
    await estate.show(estate.slug!, 'head', true)
    await router.push(`/${estate.slug}/head/expectations`)
    emit('kept')
  } catch (error) {
    failure.value = failureText(error)
  } finally {
    busy.value = false
  }
}
const first = ref<{ focus: () => void } | null>(null)
onMounted(() => first.value?.focus())
</script>

<template>
  <section
    class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8 border-b border-ink bg-paper px-4 py-3"
    aria-label="A new expectation"
  >
    <form
      class="flex flex-col gap-2"
      @submit.prevent="ready && prove()"
      @keydown.esc="emit('close')"
    >
      <div class="flex items-baseline gap-4">
        <h2 class="font-semibold">A new expectation</h2>
        <button
          type="button"
          class="cursor-pointer border-b border-rule text-xs text-soft"
          @click="turn"
        >
          {{ asText ? 'as a form' : 'as text' }}
        </button>
      </div>
      <textarea
        v-if="asText"
        v-model="text"
        rows="9"
        spellcheck="false"
        aria-label="Expectations in the format"
        class="mono border border-rule bg-ground p-2"
      />
      <template v-else>
        <ExpectationField
          ref="first"
          v-model="form.id"
          label="name"
          placeholder="cards-stay-home"
        />
        <ExpectationField
          v-model="form.from"
          label="from"
          list="expectation-words"
          placeholder="role private, tag scope=cards, a name, a prefix"
        />
        <label class="grid grid-cols-[72px_1fr] items-baseline gap-2"
          ><span class="text-xs text-soft">must</span>
          <span class="flex items-baseline gap-3">
            <select v-model="form.must" class="border-b border-rule bg-paper py-0.5">
              <option v-for="one in MUSTS" :key="one.must" :value="one.must">{{ one.must }}</option>
            </select>
            <span class="text-xs text-soft">{{
              MUSTS.find((one) => one.must === form.must)!.means
            }}</span>
          </span>
        </label>
        <ExpectationField
          v-if="names"
          v-model="form.named"
          :label="names"
          :placeholder="names === 'by' ? 'firewalls/harbour-wall' : '203.0.113.10/32'"
        />
        <ExpectationField
          v-model="form.to"
          label="to"
          list="expectation-words"
          placeholder="internet, network hub, site harbour-control"
        />
        <div class="grid grid-cols-2 gap-4">
          <ExpectationField
            v-model="form.over"
            label="over"
            placeholder="every packet, or tcp 443"
          />
          <ExpectationField v-model="form.except" narrow label="except" list="expectation-words" />
        </div>
        <datalist id="expectation-words">
          <option v-for="word in words" :key="word" :value="word" />
        </datalist>
      </template>
      <div class="mt-1 flex items-center gap-3">
        <button type="submit" class="action action-main" :disabled="!ready || busy">
          Prove it
        </button>
        <button type="button" class="action" @click="emit('close')">Cancel</button>
      </div>
    </form>
    <div aria-live="polite" class="min-w-0">
      <p v-if="failure" role="alert" class="mb-2 text-leak">{{ failure }}</p>
      <ul v-if="proved && proved.errors.length > 0" class="mb-2">
        <li v-for="(one, index) in proved.errors" :key="index" class="py-0.5 text-leak">
          line {{ one.line }}, column {{ one.column }}: {{ one.message }}
        </li>
      </ul>
      <template v-else-if="proved">
        <p v-if="proved.expectations?.length === 0" class="mb-2 text-leak">
          The estate has an expectation of this name already; give it another.
        </p>
        <div v-for="one in proved.expectations ?? []" :key="one.id" class="mb-2">
          <p class="flex items-baseline gap-2">
            <ProblemMark
              v-if="one.state !== 'holds'"
              :mark="one.state === 'broken' ? 'leak' : 'weak'"
            />
            <b>{{ one.id }} {{ one.state === 'holds' ? 'holds' : `is ${one.state}` }}</b>
          </p>
          <p>{{ one.sentence }}</p>
          <p v-if="one.packet" class="mono mt-1">
            {{ one.packet.src }} &gt; {{ one.packet.dst }} {{ one.packet.protocol }}
            {{ one.packet.dstPort ?? '' }}
          </p>
          <p v-if="one.because" class="text-xs text-soft">{{ one.because }}</p>
        </div>
        <form
          v-if="proved.expectations?.length"
          class="mt-3 flex items-baseline gap-3 border-t border-rule pt-3"
          @submit.prevent="canKeep && keep()"
        >
          <template v-if="isHead">
            <span class="text-xs text-soft">by {{ account.name }}</span>
            <button type="submit" class="action action-main" :disabled="!canKeep || busy">
              Save as a new revision
            </button>
          </template>
          <button
            v-else-if="isDraft"
            type="button"
            class="action action-main"
            :disabled="draft.isBusy"
            @click="keepInDraft"
          >
            Keep it in the draft
          </button>
          <p v-else class="text-xs text-soft">Only the newest revision can be added to.</p>
        </form>
      </template>
      <template v-else>
        <p class="mb-1 text-xs text-soft">As it will stand in the estate:</p>
        <pre class="mono overflow-x-auto whitespace-pre-wrap">{{ written }}</pre>
      </template>
    </div>
  </section>
</template>
