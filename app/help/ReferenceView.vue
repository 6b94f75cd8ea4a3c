<script setup lang="ts">
import {
  aboutFinding,
  CAUSE_CODES,
  explainCause,
  familyOfCode,
  FINDING_CODES,
  type FindingCode,
} from '@salt-trail/core'
import { kindsOf, tourParts, type TourPart } from '~/help/format-reference'
import { keyMeans } from '~/help/key-words'
import { TERMS } from '~/help/terms'
import { failureText } from '~/api/failure-text'

/**
 * What can be looked up: the format section by section with an example, the codes of findings and
 * causes, the words on screen.
 */
const route = useRoute()
useHead({ title: 'Reference, Salt Trail' })
const EXAMPLE = 'every-section'
const parts = shallowRef<readonly TourPart[]>([])
const schema = shallowRef<object | null>(null)
const failure = ref('')
onMounted(async () => {
  try {
    const [example, found] = await Promise.all([
      $fetch<{ text: string }>(`/api/examples/${EXAMPLE}`),
      $fetch<object>('/schemas/salt-trail-1.json'),
    ])
    parts.value = tourParts(example.text).filter(
      ({ section }) => section !== 'format' && section !== 'name',
    )
    schema.value = found
  } catch (error) {
    failure.value = failureText(error)
  }
})
const of = computed(() => (typeof route.query.of === 'string' ? route.query.of : 'format'))
const part = computed(() => parts.value.find(({ section }) => section === of.value) ?? null)
const kinds = computed(() =>
  schema.value && part.value ? kindsOf(schema.value, part.value.section) : [],
)
/** Firewalls first: they have the most to look up. */
const sections = computed(() =>
  [...parts.value].sort(
    (a, b) => Number(b.section === 'firewalls') - Number(a.section === 'firewalls'),
  ),
)
const text = ref('')
const wanted = computed(() => text.value.trim().toLowerCase())
const fits = (...words: string[]): boolean =>
  wanted.value === '' || words.some((word) => word.toLowerCase().includes(wanted.value))
const findings = computed(() => FINDING_CODES.filter((code) => fits(code, aboutFinding(code))))
const causes = computed(() =>
  CAUSE_CODES.map((code) => ({
    code,
    says: explainCause({ code, object: 'the/object' }).replaceAll('object', 'the object'),
  })).filter(({ code, says }) => fits(code, says)),
)
const words = computed(() => Object.values(TERMS))
const WHOLE = [
  { of: 'format', title: 'The format' },
  { of: 'findings', title: 'Codes of findings' },
  { of: 'causes', title: 'Why packets are lost' },
]
const family = (code: FindingCode) => familyOfCode(code)
</script>

<template>
  <AppShell>
    <div class="grid h-full grid-cols-[220px_minmax(0,1fr)]">
      <nav aria-label="Reference" class="overflow-y-auto border-r border-rule bg-paper py-3">
        <ul>
          <li v-for="one in WHOLE" :key="one.of">
            <NuxtLink
              :to="{ query: { of: one.of } }"
              class="block px-4 py-1"
              :class="of === one.of ? 'bg-wash font-semibold' : ''"
              :aria-current="of === one.of ? 'page' : undefined"
              >{{ one.title }}</NuxtLink
            >
          </li>
        </ul>
        <h2 class="px-4 pt-3 pb-1 text-xs text-soft">Sections of the format</h2>
        <ul>
          <li v-for="one in sections" :key="one.section">
            <NuxtLink
              :to="{ query: { of: one.section } }"
              class="mono block px-4 py-0.5"
              :class="of === one.section ? 'bg-wash font-semibold' : ''"
              :aria-current="of === one.section ? 'page' : undefined"
              >{{ one.section }}</NuxtLink
            >
          </li>
        </ul>
      </nav>
      <div class="overflow-y-auto px-6 py-4" tabindex="0" aria-label="Explanation">
        <p v-if="failure" role="alert" class="text-leak">{{ failure }}</p>
        <template v-else-if="of === 'findings' || of === 'causes'">
          <div class="mb-3 flex items-baseline gap-4">
            <h1 class="text-lg font-semibold">
              {{ of === 'findings' ? 'Codes of findings' : 'Why packets are lost' }}
            </h1>
            <label class="flex items-baseline gap-1.5 text-xs text-soft"
              >with
              <input
                v-model="text"
                type="search"
                class="w-52 border-b border-rule bg-ground px-1 py-0.5 text-ink"
                placeholder="code or words"
              />
            </label>
          </div>
          <dl v-if="of === 'findings'" class="max-w-4xl">
            <div
              v-for="code in findings"
              :id="code"
              :key="code"
              class="grid grid-cols-[264px_1fr] border-t border-hair py-1.5"
            >
              <dt class="mono flex gap-2.5">
                <ProblemMark :mark="family(code)" class="mt-0.5" />{{ code }}
              </dt>
              <dd>{{ aboutFinding(code) }}</dd>
            </div>
          </dl>
          <dl v-else class="max-w-4xl">
            <div
              v-for="one in causes"
              :key="one.code"
              class="grid grid-cols-[240px_1fr] border-t border-hair py-1.5"
            >
              <dt class="mono">{{ one.code }}</dt>
              <dd>{{ one.says }}</dd>
            </div>
          </dl>
        </template>
        <template v-else-if="part">
          <h1 class="mono mb-1 text-lg font-semibold">{{ part.section }}</h1>
          <p class="mb-4 max-w-3xl">{{ part.says }}</p>
          <template v-for="kind in kinds" :key="kind.title">
            <h2 v-if="kind.title" class="mono mb-1 font-semibold">{{ kind.title }}</h2>
            <table class="mb-5 w-full max-w-5xl table-fixed border-collapse">
              <thead>
                <tr class="border-b border-ink text-left text-xs text-soft">
                  <th class="w-52 py-1 font-medium">key</th>
                  <th class="py-1 font-medium">what it says</th>
                  <th class="w-[38%] py-1 font-medium">value</th>
                </tr>
              </thead>
              <tbody>
                <tr
                  v-for="field in kind.fields"
                  :key="field.key"
                  class="border-b border-hair align-top"
                >
                  <td class="mono py-1 pr-3">
                    {{ field.key }}
                    <span v-if="field.required" class="font-sans text-xs text-soft">required</span>
                  </td>
                  <td class="py-1 pr-4">{{ keyMeans(part.section, field.key) }}</td>
                  <td class="py-1 break-words text-soft">{{ field.type }}</td>
                </tr>
              </tbody>
            </table>
          </template>
          <h2 class="mb-1 font-semibold">Example</h2>
          <pre
            class="mono max-w-4xl overflow-x-auto border-l-2 border-focus bg-paper p-3"
            tabindex="0"
            aria-label="Example"
            >{{ part.text }}</pre>
        </template>
        <div v-else class="max-w-3xl">
          <h1 class="mb-2 text-lg font-semibold">The format salt-trail/1</h1>
          <p class="mb-2">
            An estate is one document, or several that are merged section by section, in YAML 1.2 or
            JSON. <span class="mono">format</span> and <span class="mono">name</span> stand in the
            first. Every section is a map from an id to an object; an id is up to 128 letters,
            digits and <span class="mono">. _ - /</span>.
          </p>
          <ul class="mb-4 list-disc pl-5">
            <li>
              Every object may have a title, a note and tags; a tag condition matches its own, its
              subnet’s and its network’s.
            </li>
            <li>
              Prefixes are written without host bits: <span class="mono">10.40.1.0/24</span>, not
              <span class="mono">10.40.1.7/24</span>.
            </li>
            <li>
              <span class="mono">state</span> is up (left out), pending, down or deleted. Only what
              is up carries traffic; what is deleted counts as missing.
            </li>
            <li>
              A route may lead to something that is not there: that is how a deleted target looks.
              Any other reference has to lead somewhere.
            </li>
            <li>
              An unknown key is an error, with the nearest known one suggested. All errors are told
              at once.
            </li>
          </ul>
          <p class="mb-4">
            <NuxtLink to="/bring-in" class="border-b border-ink">Bring in an estate</NuxtLink>, or
            begin with an example there.
            <a href="/schemas/salt-trail-1.json" class="border-b border-ink">The JSON Schema</a> is
            for editors that complete and check.
          </p>
          <h2 class="mb-1 font-semibold">Words on screen</h2>
          <dl>
            <div
              v-for="one in words"
              :key="one.word"
              class="grid grid-cols-[160px_1fr] border-t border-hair py-1.5"
            >
              <dt class="font-semibold">{{ one.word }}</dt>
              <dd>{{ one.says }}</dd>
            </div>
          </dl>
        </div>
      </div>
    </div>
  </AppShell>
</template>
