import type { ChangedRow } from '@salt-trail/core'
import type { Outline } from '~/api/answers'
import { useAnswer } from '~/api/useAnswer'
import { transportOf } from '~/questions/over'
import { showEnd } from '~/questions/question-text'
import { useOverReader } from '~/questions/useOverReader'
import { decidingBranch } from '~/views/trace/deciding-branch'
import { changedLines, exitLines, traceLines, type WayLine } from '~/views/map/way-lines'

/** What lies over the map: lines, the objects they concern, and what is said of them. */
export interface Overlay {
  readonly lines: readonly WayLine[]
  readonly concerned: readonly string[]
  readonly said: string
}
const NOTHING: Overlay = { lines: [], concerned: [], said: '' }

type Shown = 'nothing' | 'question' | 'network' | 'finding' | 'difference'

/**
 * What is drawn over the map, as the page's address says: the question's two ways, a network's ways
 * out, a finding's objects, or what the open draft alters.
 */
export function useOverlay() {
  const estate = useEstate()
  const { world } = useWorld()
  const network = textInAddress('network', 'replace')
  const fingerprint = textInAddress('finding', 'replace')
  const show = choiceInAddress('show', 'replace', ['', 'nothing', 'question'], '')
  const question = useQuestionOfMap()
  const shows = computed((): Shown => {
    if (fingerprint.value) return 'finding'
    if (network.value) return 'network'
    if (show.value === 'nothing') return 'nothing'
    if (world.value === 'difference' && show.value !== 'question') return 'difference'
    return question.value ? 'question' : 'nothing'
  })
  const answered = useQuestionOnMap(() => (shows.value === 'question' ? question.value : null))
  const found = useFindingOnMap(() => (shows.value === 'finding' ? fingerprint.value : ''))
  const difference = useDifferenceOnMap(() => shows.value === 'difference')
  /** Lays something else over the map: a network's ways, or one of those that need no name. */
  function lay(wanted: { readonly network: string } | 'nothing' | 'question' | 'difference'): void {
    const isNetwork = typeof wanted === 'object'
    show.value = isNetwork || wanted === 'difference' ? '' : wanted
    network.value = isNetwork ? wanted.network : ''
    fingerprint.value = ''
  }
  const overlay = computed((): Overlay => {
    switch (shows.value) {
      case 'question':
        return answered.overlay.value
      case 'network':
        return estate.outline ? networkOverlay(estate.outline, network.value) : NOTHING
      case 'finding':
        return found.overlay.value
      case 'difference':
        return difference.overlay.value
      default:
        return NOTHING
    }
  })
  function networkOverlay({ subnets }: Outline, id: string): Overlay {
    const own = new Set(subnets.flatMap((subnet) => (subnet.network === id ? subnet.id : [])))
    const rows = (estate.exits ?? []).filter((row) => own.has(row.subnet))
    return {
      lines: rows.flatMap((row) => [
        ...exitLines(`subnets/${row.subnet}`, row.internet, 'internet'),
        ...exitLines(`subnets/${row.subnet}`, [
          ...row.sites,
          ...row.services,
          ...row.otherNetworks,
        ]),
      ]),
      concerned: [`networks/${id}`],
      said: `ways out of ${id}`,
    }
  }
  const wrong = computed(() => {
    if (shows.value === 'question') return answered.wrong.value
    if (shows.value === 'finding') return found.wrong.value
    return shows.value === 'difference' ? difference.wrong.value : ''
  })
  return { shows, question, overlay, wrong, lay }
}

/** The subnet of a host; every other object is its own home. */
function useHome() {
  const estate = useEstate()
  const homes = computed(
    () =>
      new Map<string, string>(
        (estate.outline?.ends ?? []).flatMap(({ end, home }) =>
          home && end.startsWith('interface:')
            ? [[`interfaces/${end.slice('interface:'.length)}`, `subnets/${home}`] as const]
            : [],
        ),
      ),
  )
  return (ref: string): string => homes.value.get(ref) ?? ref
}

interface Question {
  readonly from: string
  readonly to: string
  readonly over: string
  /** 4 or 6, or empty: the first that both ends have. */
  readonly family: string
}

/** The question in the page's address, or the one that was traced last. */
function useQuestionOfMap() {
  const lastTrace = useState<Record<string, string>>('last-trace', () => ({}))
  const asked = {
    from: textInAddress('from', 'replace'),
    to: textInAddress('to', 'replace'),
    over: textInAddress('over', 'replace'),
    family: textInAddress('family', 'replace'),
  }
  const valuesOf = ({ from, to, over, family }: typeof asked): Question => ({
    from: from.value,
    to: to.value,
    over: over.value,
    family: family.value,
  })
  const question = computed((): Question | null => {
    const { from, to, over, family } = asked.from.value ? valuesOf(asked) : lastTrace.value
    return from && to ? { from, to, over: over || 'tcp 443', family: family ?? '' } : null
  })
  // The question that lies over the map stands in the bar.
  const estate = useEstate()
  const questions = useQuestions()
  watch(
    [() => JSON.stringify(question.value), () => estate.outline],
    () => {
      const ends = estate.outline?.ends
      if (question.value === null || ends === undefined) return
      const { from, to, over } = question.value
      questions.text = { from: showEnd(from, ends), to: showEnd(to, ends), over }
    },
    { immediate: true },
  )
  return question
}

/** Both ways of a question; nothing is asked while it is null. */
function useQuestionOnMap(question: () => Question | null) {
  const estate = useEstate()
  const home = useHome()
  const readOver = useOverReader()
  const transport = computed(() => {
    const one = question()
    return one ? readOver(one.over) : null
  })
  const { answer: trace, failure } = useAnswer<'trace'>(() => {
    const one = question()
    if (one === null || estate.fixedBase === null) return null
    if (transport.value === null || typeof transport.value === 'string') return null
    const { from, to } = one
    const family = { '4': 4, '6': 6 }[one.family] as 4 | 6 | undefined
    return {
      base: estate.fixedBase,
      path: 'trace',
      body: { from, to, ...transportOf(transport.value), family, continue: true },
    }
  })
  return {
    overlay: computed((): Overlay => {
      const one = question()
      if (!one || !trace.value || !estate.outline) return NOTHING
      const { ends } = estate.outline
      return {
        lines: traceLines(decidingBranch(trace.value), home),
        concerned: [],
        said: `${showEnd(one.from, ends)} > ${showEnd(one.to, ends)} ${one.over}${
          one.family === '' ? '' : `, IPv${one.family}`
        }`,
      }
    }),
    wrong: computed(() =>
      typeof transport.value === 'string' ? transport.value : (failure.value ?? ''),
    ),
  }
}

/** The objects of a finding. */
function useFindingOnMap(fingerprint: () => string) {
  const estate = useEstate()
  const home = useHome()
  const { answer, failure } = useAnswer<'findings'>(() =>
    fingerprint() === '' || estate.fixedBase === null
      ? null
      : {
          base: estate.fixedBase,
          path: 'findings',
          query: { fingerprint: fingerprint(), count: 1 },
        },
  )
  return {
    overlay: computed((): Overlay => {
      const finding = answer.value?.findings[0]
      return finding
        ? { lines: [], concerned: finding.objects.map(home), said: finding.sentence }
        : NOTHING
    }),
    wrong: computed(() =>
      answer.value?.findings.length === 0
        ? 'this revision has no such finding'
        : (failure.value ?? ''),
    ),
  }
}

/** The ways out that the open draft alters, as they are in its base and in the draft. */
function useDifferenceOnMap(isShown: () => boolean) {
  const foresight = useDraftForesight()
  foresight.wantWhile(isShown)
  const saidOf = (rows: readonly ChangedRow[]): string =>
    rows.length === 0
      ? 'no way out differs'
      : `ways out of ${rows.length} ${rows.length === 1 ? 'subnet' : 'subnets'} differ`
  return {
    overlay: computed((): Overlay => {
      const rows = foresight.found?.exits
      if (!rows) return { ...NOTHING, said: 'being foreseen …' }
      return {
        lines: rows.flatMap(changedLines),
        concerned: rows.map(({ subnet }) => `subnets/${subnet}`),
        said: saidOf(rows),
      }
    }),
    wrong: computed(() => {
      if (foresight.state === 'failed') return `It could not be foreseen: ${foresight.message}.`
      return foresight.state === 'invalid' ? 'The draft is no valid estate.' : ''
    }),
  }
}
