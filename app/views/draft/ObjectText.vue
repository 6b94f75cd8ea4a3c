<script setup lang="ts">
import { autocompletion, closeBrackets, completionKeymap } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands'
import { yaml } from '@codemirror/lang-yaml'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { forceLinting, lintGutter, linter } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, keymap, lineNumbers } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { readObject } from '@salt-trail/core'
import type { Objects } from '~/api/answers'
import { completing, wordsOf } from '~/views/draft/completion'
import { useObjectSchema } from '~/views/draft/useObjectSchema'

/** The text of one object: YAML with completion, colours and checks while it is typed. */
const props = defineProps<{ section: string; objects: Objects | null; wrong: string }>()
const text = defineModel<string>({ required: true })
const emit = defineEmits<{ keep: [] }>()
const host = ref<HTMLElement | null>(null)
const { schema } = useObjectSchema(() => props.section)
let view: EditorView | null = null

const COLOURS = HighlightStyle.define([
  { tag: tags.propertyName, color: 'var(--focus)' },
  { tag: [tags.string, tags.content], color: 'var(--ink)' },
  { tag: [tags.number, tags.bool, tags.atom, tags.keyword], color: 'var(--translated)' },
  { tag: tags.comment, color: 'var(--faint)', fontStyle: 'italic' },
  { tag: tags.punctuation, color: 'var(--soft)' },
])
const LOOK = EditorView.theme({
  '&': { height: '100%', backgroundColor: 'var(--paper)', fontSize: '12px' },
  '&.cm-focused': { outline: '2px solid var(--focus)', outlineOffset: '-1px' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '18px' },
  '.cm-gutters': {
    backgroundColor: 'var(--paper)',
    color: 'var(--faint)',
    borderRight: '1px solid var(--hair)',
  },
  '.cm-content': { caretColor: 'var(--ink)' },
  '.cm-tooltip': {
    backgroundColor: 'var(--paper)',
    border: '1px solid var(--ink)',
    color: 'var(--ink)',
  },
  '.cm-tooltip-autocomplete ul li[aria-selected]': {
    backgroundColor: 'var(--wash)',
    color: 'var(--ink)',
  },
  '.cm-completionIcon': { display: 'none' },
})

const words = computed(() => wordsOf(schema.value ?? {}))
onMounted(() => {
  view = new EditorView({
    parent: host.value!,
    state: EditorState.create({
      doc: text.value,
      extensions: [
        lineNumbers(),
        history(),
        closeBrackets(),
        yaml(),
        syntaxHighlighting(COLOURS),
        LOOK,
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': 'Text of the object' }),
        autocompletion({
          override: [
            (context) => completing(props.section, words.value, () => props.objects)(context),
          ],
        }),
        lintGutter(),
        linter(({ state }) => {
          const { problems } = readObject(props.section, state.doc.toString())
          const all =
            problems.length > 0 || props.wrong === ''
              ? problems
              : [{ message: props.wrong, from: 0, to: state.doc.line(1).to }]
          return all.map(({ message, from, to }) => ({
            severity: 'error' as const,
            message,
            from: Math.min(from, state.doc.length),
            to: Math.min(Math.max(to, from), state.doc.length),
          }))
        }),
        keymap.of([
          {
            key: 'Mod-Enter',
            run: () => {
              emit('keep')
              return true
            },
          },
          ...completionKeymap,
          ...defaultKeymap,
          ...historyKeymap,
          indentWithTab,
        ]),
        EditorView.updateListener.of(({ docChanged, state }) => {
          if (docChanged) text.value = state.doc.toString()
        }),
      ],
    }),
  })
})
onBeforeUnmount(() => view?.destroy())
// A text that comes from elsewhere, such as from the form, replaces what is there.
watch(text, (now) => {
  if (view && view.state.doc.toString() !== now)
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
})
watch(
  () => props.wrong,
  () => view && forceLinting(view),
)
</script>

<template>
  <div ref="host" class="min-h-40 flex-1 overflow-hidden border border-rule" />
</template>
