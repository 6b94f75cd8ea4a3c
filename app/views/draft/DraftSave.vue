<script setup lang="ts">
import { planText } from '@salt-trail/core'
import type { DraftPlan } from '~/api/answers'
import { failureText } from '~/api/failure-text'
import { saveText } from '~/tables/save'

/** Saves the draft as the next revision, or takes it elsewhere as a plan, a patch or a file. */
const estate = useEstate()
const router = useRouter()
const draft = useDraft()
const account = useAccount()
const note = ref('')
const reason = ref('')
const broken = ref<readonly { id: string; sentence: string }[]>([])
const failure = ref('')
const isSaving = ref(false)

const standing = computed(() => draft.draft?.changes.some(({ stands }) => stands) === true)
const behind = computed(() => (draft.draft ? draft.draft.head > draft.draft.base : false))
const whyNot = computed(() => {
  if (!standing.value) return 'nothing is changed'
  if (behind.value) return 'put it on the newest revision first'
  return broken.value.length > 0 && reason.value.trim() === '' ? 'say why' : ''
})

async function save(): Promise<void> {
  isSaving.value = true
  failure.value = ''
  try {
    const saved = await $fetch<{ number: number }>(`${draft.path}/revision`, {
      method: 'POST',
      body: {
        note: note.value,
        reason: broken.value.length > 0 ? reason.value : undefined,
      },
    })
    draft.close()
    await estate.show(estate.slug!, String(saved.number), true)
    await router.push(`/${estate.slug}/${saved.number}/findings`)
  } catch (error) {
    const said = (error as { data?: { data?: { code?: string; broken?: typeof broken.value } } })
      .data?.data
    if (said?.code === 'breaks-expectations') broken.value = said.broken ?? []
    failure.value = failureText(error)
    await draft.look()
  } finally {
    isSaving.value = false
  }
}

async function planFile(): Promise<void> {
  try {
    const plan = await $fetch<DraftPlan>(`${draft.path}/plan`)
    const text = planText(plan, draft.draft!.name)
    saveText(`${estate.slug}-draft-${draft.id}.md`, text, 'text/markdown')
  } catch (error) {
    failure.value = failureText(error)
  }
}
</script>

<template>
  <div class="min-h-0 flex-1 overflow-y-auto px-4 pb-4" tabindex="0" aria-label="Save and export">
    <form class="pt-3" @submit.prevent="save">
      <h2 class="mb-2 font-semibold">Save as the next revision</h2>
      <p class="mb-2 flex items-baseline gap-2">
        <span class="w-16 text-xs text-soft">by</span>{{ account.name }}
      </p>
      <label class="mb-2 flex items-baseline gap-2">
        <span class="w-16 text-xs text-soft">note</span>
        <input
          v-model="note"
          class="flex-1 border-b border-rule bg-transparent py-0.5"
          :placeholder="draft.draft?.name"
          maxlength="2000"
        />
      </label>
      <section v-if="broken.length > 0" class="mb-2" aria-label="Expectations that break">
        <p class="text-leak">It breaks what the estate expects of itself:</p>
        <ul class="mb-2 list-disc pl-5">
          <li v-for="one in broken" :key="one.id">
            <b class="font-semibold">{{ one.id }}</b>: {{ one.sentence }}
          </li>
        </ul>
        <label class="flex items-baseline gap-2">
          <span class="w-16 text-xs text-soft">why it is saved</span>
          <input
            v-model="reason"
            class="flex-1 border-b border-ink bg-transparent py-0.5"
            placeholder="the reason stays with the revision"
            maxlength="2000"
          />
        </label>
      </section>
      <p v-if="failure" role="alert" class="mb-2 text-leak">{{ failure }}</p>
      <button type="submit" class="action action-main" :disabled="whyNot !== '' || isSaving">
        {{ isSaving ? 'Saving …' : 'Save as a new revision' }}
      </button>
      <span v-if="whyNot" class="ml-3 text-xs text-soft">{{ whyNot }}</span>
      <button
        v-if="behind"
        type="button"
        class="action ml-3"
        :disabled="draft.isBusy"
        @click="draft.rebase()"
      >
        Put it on revision {{ draft.draft!.head }}
      </button>
    </form>
    <section class="mt-6">
      <h2 class="mb-2 font-semibold">Take it elsewhere</h2>
      <p class="flex flex-wrap gap-3">
        <button type="button" class="action" @click="planFile">Plan as Markdown</button>
        <a class="action" :href="`${draft.path}/patch`" download>Changes as a JSON patch</a>
        <a
          class="action"
          :href="`${estate.baseOf(`draft-${draft.id}`)}/document?notation=yaml`"
          download
          >Estate file</a
        >
      </p>
    </section>
  </div>
</template>
