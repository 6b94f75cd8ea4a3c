<script setup lang="ts">
import type { SourceFile } from '@salt-trail/core'
import { useDropZone } from '@vueuse/core'
import type { Answer } from '~/api/answers'

/** Takes files by dropping, choosing, or from the examples; pasting works anywhere on the page. */
const emit = defineEmits<{ files: [files: SourceFile[]] }>()
const zone = ref<HTMLElement | null>(null)
const chooser = ref<HTMLInputElement | null>(null)
const examples = ref<Answer<'/api/examples'>>([])

async function read(list: readonly File[] | FileList | null): Promise<void> {
  if (!list || list.length === 0) return
  emit(
    'files',
    await Promise.all(
      [...list].map(async (file) => ({ name: file.name, text: await file.text() })),
    ),
  )
}
const { isOverDropZone } = useDropZone(zone, { onDrop: (files) => read(files), multiple: true })

async function takeExample(name: string): Promise<void> {
  emit('files', [await $fetch<Answer<'/api/examples/{example}'>>(`/api/examples/${name}`)])
}
onMounted(async () => {
  examples.value = await $fetch<Answer<'/api/examples'>>('/api/examples').catch(() => [])
})
</script>

<template>
  <div class="max-w-3xl">
    <div
      ref="zone"
      class="border border-dashed px-6 py-8"
      :class="isOverDropZone ? 'border-focus bg-wash' : 'border-faint'"
    >
      <p class="mb-1 text-base font-semibold">Drop estate files here, or paste their text</p>
      <p class="mb-4 text-soft">
        YAML or JSON in the format salt-trail/1. Several files are read together as one estate.
      </p>
      <button type="button" class="action action-main" @click="chooser?.click()">
        Choose files
      </button>
      <input
        ref="chooser"
        type="file"
        multiple
        accept=".yaml,.yml,.json"
        class="hidden"
        aria-label="Estate files"
        @change="read(($event.target as HTMLInputElement).files)"
      />
      <button
        type="button"
        class="action ml-2"
        @click="
          emit('files', [{ name: 'estate.yaml', text: 'format: salt-trail/1\nname: New estate\n' }])
        "
      >
        Begin with an empty one
      </button>
    </div>
    <section v-if="examples.length > 0" class="mt-6">
      <h2 class="mb-1 font-semibold">Or begin with an example</h2>
      <ul>
        <li v-for="example in examples" :key="example.name" class="border-b border-hair">
          <button
            type="button"
            class="flex w-full cursor-pointer items-baseline gap-4 py-1.5 text-left hover:bg-wash"
            @click="takeExample(example.name)"
          >
            <span class="mono w-56 shrink-0 pl-2">{{ example.name }}</span><span
              class="text-soft"
              >{{ example.teaches }}</span
            >
          </button>
        </li>
      </ul>
    </section>
  </div>
</template>
