<script setup lang="ts">
import { isWholeSection, MAP_SECTIONS, splitRef, WHOLE_SECTIONS } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'
import { useEditing } from '~/views/draft/useEditing'

/**
 * Chooses an object, there or new, or a section that is edited as one, and edits it as a form or as
 * a text.
 */
const estate = useEstate()
const draft = useDraft()
const foresight = useDraftForesight()
const object = textInAddress('object', 'push')
const as = choiceInAddress('as', 'replace', ['form', 'text'] as const, 'form')
const { answer: objects } = useAnswer<'objects'>(() =>
  estate.outline?.draft ? { base: estate.fixedBase!, path: 'objects' } : null,
)
const section = ref('routeTables')
const id = ref('')
watch(
  object,
  (now) => {
    if (now === '') return
    ;[section.value, id.value] = splitRef(now)
    // An entry is edited with its section.
    if (isWholeSection(section.value) && id.value !== '') object.value = section.value
  },
  { immediate: true },
)
const ids = computed(
  () => objects.value?.sections.find((one) => one.section === section.value)?.ids ?? [],
)
const isWhole = computed(() => isWholeSection(section.value))
function choose(): void {
  if (isWhole.value) object.value = section.value
  else if (id.value.trim() !== '') object.value = `${section.value}/${id.value.trim()}`
}
function chooseSection(): void {
  id.value = ''
  if (isWhole.value) choose()
}
const { page, isNew, text, isTouched, read, operations, keep, forget, remove, setValue } =
  useEditing(() => object.value)
const value = computed(() => read.value.written ?? {})
const wrong = computed(() =>
  foresight.state === 'invalid' && isTouched.value ? (foresight.problems[0]?.message ?? '') : '',
)
async function takeOut(): Promise<void> {
  if ((await remove()) !== null) object.value = ''
}
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col px-4 pb-3">
    <form class="flex shrink-0 items-baseline gap-2 py-2" @submit.prevent="choose">
      <select
        v-model="section"
        class="border-b border-rule bg-paper py-0.5"
        aria-label="Kind of object"
        @change="chooseSection"
      >
        <option v-for="one in MAP_SECTIONS" :key="one">{{ one }}</option>
        <optgroup label="Of the whole estate">
          <option v-for="one in WHOLE_SECTIONS" :key="one">{{ one }}</option>
        </optgroup>
      </select>
      <input
        v-if="!isWhole"
        v-model="id"
        class="mono min-w-0 flex-1 border-b border-ink bg-transparent py-0.5"
        list="ids-of-section"
        placeholder="an id that is there, or a new one"
        aria-label="Id of the object"
        autocomplete="off"
        spellcheck="false"
        @change="choose"
      />
      <datalist v-if="!isWhole" id="ids-of-section">
        <option v-for="one in ids" :key="one" :value="one" />
      </datalist>
      <button v-if="!isWhole" type="submit" class="action">Open</button>
    </form>
    <p v-if="object === ''" class="text-soft">
      Choose an object of the draft, or write the id of a new one.
    </p>
    <template v-else-if="page || isNew">
      <p class="mb-1 flex shrink-0 items-baseline gap-3">
        <b class="mono font-semibold">{{ object }}</b>
        <span v-if="isNew" class="text-xs text-draft">new</span>
        <span class="ml-auto flex gap-3" role="group" aria-label="Edit it as">
          <button
            v-for="one in ['form', 'text'] as const"
            :key="one"
            type="button"
            class="cursor-pointer"
            :class="as === one ? 'border-b-2 border-draft font-semibold' : 'text-soft'"
            :aria-pressed="as === one"
            @click="as = one"
          >
            {{ one }}
          </button>
        </span>
      </p>
      <ObjectForm
        v-if="as === 'form' && (read.written !== undefined || isNew)"
        :section="section"
        :value="value"
        :objects="objects"
        :targets="page?.targets ?? []"
        @change="setValue"
        @text="as = 'text'"
      />
      <ObjectText
        v-else
        :key="object"
        v-model="text"
        :section="section"
        :objects="objects"
        :wrong="wrong"
        @keep="keep"
      />
      <ul
        v-if="isTouched && (read.problems.length > 0 || wrong)"
        class="shrink-0 pt-1"
        role="alert"
      >
        <li v-for="one in read.problems.slice(0, 4)" :key="one.message" class="text-leak">
          {{ one.message }}
        </li>
        <li v-if="wrong" class="text-leak">{{ wrong }}</li>
      </ul>
      <p
        class="flex shrink-0 items-baseline gap-3 pt-2 [&>button]:shrink-0 [&>button]:whitespace-nowrap"
      >
        <button
          type="button"
          class="action action-main"
          :disabled="operations.length === 0 || wrong !== '' || draft.isBusy"
          @click="keep"
        >
          Keep it in the draft
        </button>
        <button v-if="isTouched" type="button" class="action" @click="forget">As it was</button>
        <button
          v-if="!isNew"
          type="button"
          class="action"
          :disabled="draft.isBusy"
          @click="takeOut"
        >
          Remove it
        </button>
        <span v-if="isTouched" class="text-xs text-soft"
          >what you type is kept when you leave
          <span v-if="as === 'text'">· <kbd>Ctrl Enter</kbd></span></span
        >
      </p>
    </template>
    <p v-else role="status" class="text-soft">reading {{ object }} …</p>
  </div>
</template>
