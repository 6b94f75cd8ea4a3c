<script setup lang="ts">
import { countProblems, type Problem, type SourceFile } from '@salt-trail/core'
import { useDebounceFn, useEventListener } from '@vueuse/core'
import type { Answer, EstateInfo, Saved } from '~/api/answers'
import { ask } from '~/api/request'
import { failureText } from '~/api/failure-text'
import { nameIn, withSuggestion } from '~/views/bring-in/suggested'
import { useForesight } from '~/consequences/useForesight'

/**
 * Bring in: files to an estate, or to the next revision of one; everything wrong beside the text,
 * what would change before it is taken.
 */
type Checked = Answer<'/api/check', 'post'> &
  Partial<Answer<'/api/estates/{estate}/compare', 'post'>>

const route = useRoute()
const router = useRouter()
const account = useAccount()
const estate = useEstate()
useHead({ title: 'Bring in, Salt Trail' })

const files = ref<SourceFile[]>([])
const open = ref(0)
const into = ref(typeof route.query.into === 'string' ? route.query.into : '')
const note = ref('')
const checked = shallowRef<Checked | null>(null)
const checking = ref(false)
const taking = ref(false)
const failure = ref('')
const editor = ref<{ goTo: (line: number, column: number) => void } | null>(null)
const estates = ref<EstateInfo[]>([])

const problems = computed<Problem[]>(() => [
  ...(checked.value?.errors ?? []).map((p) => ({ ...p, severity: 'error' as const })),
  ...(checked.value?.warnings ?? []).map((p) => ({ ...p, severity: 'warning' as const })),
])
const openFile = computed(() => files.value[open.value] ?? null)
const unchanged = computed(() => checked.value?.changes?.length === 0)
const canTake = computed(
  () =>
    checked.value !== null &&
    !checking.value &&
    checked.value.errors.length === 0 &&
    !unchanged.value &&
    !taking.value,
)
const whyNot = computed(() => {
  if (!checked.value || checking.value) return 'being checked'
  if (checked.value.errors.length > 0) return 'with errors it cannot be taken'
  if (unchanged.value) return 'nothing would change'
  return ''
})

const foreseen = useForesight()
watch(checked, (now) => {
  const { base, changes, errors } = now ?? { errors: [] }
  if (into.value && base !== undefined && errors.length === 0 && (changes?.length ?? 0) > 0)
    void foreseen.foresee(into.value, base, { files: files.value })
  else foreseen.hide()
})

let asked = 0
async function check(): Promise<void> {
  const mine = ++asked
  if (files.value.length === 0) return void (checked.value = null)
  checking.value = true
  failure.value = ''
  try {
    const path = into.value ? `/api/estates/${into.value}/compare` : '/api/check'
    const result = await $fetch<Checked>(path, { method: 'POST', body: { files: files.value } })
    if (mine === asked) checked.value = result
  } catch (error) {
    if (mine === asked) {
      checked.value = null
      failure.value = failureText(error)
    }
  } finally {
    if (mine === asked) checking.value = false
  }
}
const checkSoon = useDebounceFn(check, 350)

function takeFiles(given: SourceFile[]): void {
  const names = new Set(given.map((file) => file.name))
  files.value = [...files.value.filter((file) => !names.has(file.name)), ...given]
  open.value = Math.max(
    0,
    files.value.findIndex((file) => file.name === given[0]?.name),
  )
  check()
}

function edit(text: string): void {
  files.value = files.value.map((file, index) => (index === open.value ? { ...file, text } : file))
  checking.value = true
  checkSoon()
}

function remove(index: number): void {
  files.value = files.value.filter((_, i) => i !== index)
  open.value = 0
  check()
}

/** Puts what a problem suggests into the file, and checks again. */
function mend(problem: Problem): void {
  files.value = files.value.map((file) =>
    file.name === problem.file ? { ...file, text: withSuggestion(file.text, problem) } : file,
  )
  void check()
}

async function goTo(problem: Problem): Promise<void> {
  const index = files.value.findIndex((file) => file.name === problem.file)
  if (index >= 0) open.value = index
  await nextTick()
  editor.value?.goTo(problem.line, problem.column)
}

/** The estate that it is saved to, by name. */
const savedTo = computed(() => {
  if (into.value) return estates.value.find(({ slug }) => slug === into.value)?.name ?? into.value
  const name = nameIn(files.value)
  return name === '' ? '' : `, ${name}`
})
async function take(): Promise<void> {
  // The button takes the focus in any case, so that it can say why it does nothing.
  if (!canTake.value) return
  taking.value = true
  failure.value = ''
  const body = { files: files.value, note: note.value || undefined }
  try {
    const saved = into.value
      ? await $fetch<Saved>(`/api/estates/${into.value}/revisions`, {
          method: 'POST',
          body: { ...body, base: checked.value?.base },
        })
      : await $fetch<Saved>('/api/estates', { method: 'POST', body })
    await estate.show(saved.slug, 'head', true)
    await router.push(`/${saved.slug}/head/exits`)
  } catch (error) {
    failure.value = failureText(error)
    // A newer revision was saved meanwhile: the changes are shown against it, and what was written
    // is kept.
    const said = failure.value
    if ((error as { statusCode?: number }).statusCode === 409)
      await check().then(() => (failure.value = said))
  } finally {
    taking.value = false
  }
}

/** Begins from the files of the newest revision, to change and take as the next one. */
async function openNewest(): Promise<void> {
  try {
    const given = await ask({ base: `/api/estates/${into.value}/head`, path: 'files' })
    takeFiles(given.map((file) => ({ ...file })))
  } catch (error) {
    failure.value = failureText(error)
  }
}

useEventListener('paste', (event: ClipboardEvent) => {
  if (isTyping(event.target)) return
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (text.trim() !== '')
    takeFiles([{ name: text.trimStart().startsWith('{') ? 'pasted.json' : 'pasted.yaml', text }])
})
watch(into, check)
onMounted(async () => {
  estates.value = await $fetch<EstateInfo[]>('/api/estates').catch(() => [])
  if (into.value && !estate.outline) estate.show(into.value, 'head')
})
const said = computed(() => {
  if (files.value.length === 0) return 'nothing brought in yet'
  if (checking.value) return 'checking …'
  if (!checked.value) return failure.value || undefined
  const counted = (problems: readonly { more?: number }[], what: string): string => {
    const count = countProblems(problems)
    return `${count} ${what}${count === 1 ? '' : 's'}`
  }
  return `${counted(checked.value.errors, 'error')}, ${counted(checked.value.warnings, 'warning')}`
})
</script>

<template>
  <AppShell :said="said">
    <div v-if="files.length === 0" class="h-full overflow-auto px-4 pt-4 pb-6">
      <h1 class="mb-3 text-lg font-semibold tracking-tight">Bring in an estate</h1>
      <p v-if="into" class="mb-4 text-soft">
        It becomes the next revision of <b class="text-ink">{{ estate.outline?.name ?? into }}</b>.
        <button type="button" class="cursor-pointer underline" @click="openNewest">
          Begin with its newest files</button
        >, or
        <button type="button" class="cursor-pointer underline" @click="into = ''">
          make it an estate of its own</button
        >. To change a few objects,
        <NuxtLink class="underline" :to="`/${into}/head/draft`">edit them in a draft</NuxtLink>.
      </p>
      <FileDrop @files="takeFiles" />
    </div>
    <div v-else class="grid h-full grid-cols-[minmax(0,1fr)_400px] gap-5 px-4 pt-3 pb-3">
      <div class="flex min-h-0 flex-col">
        <h1 class="sr-only">Bring in an estate</h1>
        <div
          class="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1"
          role="group"
          aria-label="Files"
        >
          <span v-for="(file, index) in files" :key="file.name" class="flex items-center gap-1">
            <button
              type="button"
              class="mono cursor-pointer"
              :class="index === open ? 'border-b-2 border-ink font-semibold' : 'text-soft'"
              :aria-pressed="index === open"
              @click="open = index"
            >
              {{ file.name }}
            </button>
            <button
              type="button"
              class="cursor-pointer px-1 text-faint hover:text-ink"
              :aria-label="`Leave ${file.name} out`"
              @click="remove(index)"
            >
              ×
            </button>
          </span>
        </div>
        <FileText
          v-if="openFile"
          ref="editor"
          :key="openFile.name"
          :model-value="openFile.text"
          :name="openFile.name"
          :problems="problems.filter((p) => p.file === openFile!.name)"
          @update:model-value="edit"
        />
      </div>
      <div class="flex min-h-0 flex-col">
        <div class="min-h-0 flex-1 overflow-auto" aria-live="polite">
          <template v-if="problems.length > 0">
            <h2 class="mb-1 font-semibold">
              {{ checked!.errors.length > 0 ? 'What is wrong' : 'Worth a look' }}
            </h2>
            <ProblemList :problems="problems" class="mb-4" @go="goTo" @mend="mend" />
          </template>
          <p v-else-if="checked" class="mb-3 text-soft">No errors.</p>
          <ChangeList
            v-if="checked?.changes && checked.base !== undefined"
            :changes="checked.changes"
            :base="checked.base"
          />
          <WhatFollows
            :state="foreseen.state.value"
            :message="foreseen.message.value"
            :found="foreseen.found.value"
            :milliseconds="foreseen.milliseconds.value"
            :problems="foreseen.problems.value"
          />
        </div>
        <form class="mt-3 shrink-0 border-t border-ink pt-3" @submit.prevent="take">
          <label class="mb-2 flex items-baseline gap-2">
            <span class="w-16 text-xs text-soft">as</span>
            <select
              v-model="into"
              class="flex-1 border-b border-rule bg-paper py-0.5 outline-offset-2"
            >
              <option value="">an estate of its own</option>
              <option v-for="one in estates" :key="one.slug" :value="one.slug">
                the next revision of {{ one.name }}
              </option>
            </select>
          </label>
          <p class="mb-2 flex items-baseline gap-2">
            <span class="w-16 text-xs text-soft">by</span>{{ account.name }}
          </p>
          <label class="mb-3 flex items-baseline gap-2">
            <span class="w-16 text-xs text-soft">note</span>
            <input
              v-model="note"
              class="flex-1 border-b border-rule bg-transparent py-0.5"
              placeholder="what this is about"
              maxlength="2000"
            />
          </label>
          <p v-if="failure" role="alert" class="mb-2 text-leak">{{ failure }}</p>
          <button
            type="submit"
            class="action action-main"
            :aria-disabled="!canTake"
            aria-describedby="why-not"
          >
            {{
              into ? `Save as the next revision of ${savedTo}` : `Save as a new estate${savedTo}`
            }}
          </button>
          <span v-if="!canTake && !taking" id="why-not" class="ml-3 text-xs text-soft">{{
            whyNot
          }}</span>
        </form>
      </div>
    </div>
  </AppShell>
</template>
