export * from './format/index'
export * from './address/address'
export * from './address/prefix'
export * from './address/ranges'
export * from './address/public'
export * from './address/prefix-table'
export * from './model/model'
export { targetRef, type Target } from './model/targets'
export { compile } from './model/compile'
export * from './routes/look-up'
export { askRules, type AskedLevel, type AskedSet, type Level } from './rules/ask'
export type { PolicyVerdict } from './rules/policy'
export type { RulesEvidence } from './rules/words'
export * from './walk/causes'
export * from './packet/packet'
export type { CandidateEvidence, LookUpEvidence } from './walk/words'
export type { Fact, FactsEvidence } from './walk/facts'
export * from './trace/question'
export { trace, tracePacket, type NameJson, type Trace, type TraceOptions } from './trace/trace'
export { type Branch, type LaneJson, type StationJson } from './trace/branch'
export { exitsOf, exitsTo, type ExitRow, type ExitWay, type WayKind } from './exits/exits'
export { destinationsOf, EXIT_COLUMNS, membersOf, type ExitColumn } from './exits/columns'
export { hopMemo, hopsOf, type HopMemo, type HopTable } from './hops/hops'
export type { Hop, HopRange } from './hops/sweep'
export * from './packet/packet-set'
export * from './packet/protocols'
export { lastOf } from './flows/steps'
export { eachFlow, walkFlow, type Flow, type FlowBranch } from './flows/flow'
export { casesOf, type Case, type Cases, type CasesQuestion, type PortSpan } from './flows/cases'
export type { End } from './walk/state'
export { compareEstates, type ObjectChange } from './compare/compare'
export { decidedAt, type DecidedAt } from './trace/decided-at'
export { explainCause, verdictText } from './trace/explain'
export {
  apply,
  between,
  changeBetween,
  complete,
  invert,
  merge,
  pointer,
  readChange,
  rebase,
} from './changes/index'
export type {
  Applied,
  Change,
  ChangeFailure,
  Conflict,
  Failed,
  Operation,
  Rebased,
} from './changes/index'
export { stopsOf } from './mend/stopping'
export { type Mend } from './mend/mend'
export { mendsOf, type PlannedMend, type MendPlan } from './mend/plan'
export { traceText } from './trace/text'
export { checklistOf, type Check, type CheckState } from './trace/checklist'
export { firstDifference, type Difference } from './trace/difference'
export {
  proveExpectation,
  proveExpectations,
  type Expectation,
  type ExpectationResult,
} from './expectations/expectations'

export {
  byGravity,
  FINDING_CODES,
  SEVERITIES,
  type Family as FindingFamily,
  type Finding,
  type ToldFinding,
  withoutMend,
  type FindingCode,
  type FindingEvidence,
  type Severity,
} from './findings/finding'

export {
  findAll,
  joinShares,
  type Findings,
  type FoundShare,
  type Progress,
  type Share,
} from './findings/findings'

export { allHops } from './hops/hops'
export { exposureInSteps, exposureOf, type HostExposure } from './ways-in/exposure'
export { hostsIn, talkBetween, talkInSteps, type Talk } from './ways-in/talks'
export {
  gravestFirst,
  groupOf,
  openingsMeant,
  type Opening,
  type OpeningsMeant,
  type OpenTo,
} from './ways-in/openings'
export { portKind, type PortKind } from './packet/known-ports'
export { opensBehind, waysInOf, type Jump, type WayIn, type WaysIn } from './ways-in/ways-in'
export { waysInBetween, type WayInBetween, type WayInFate } from './ways-in/difference'
export { compareWays, type WayChange, type WayText } from './compare/ways'
export { hopsJson, type HopRangeJson, type HopsJson, type RouteJson } from './hops/json'
export { markerOf, type CellFinding, type ColumnFindings, type MarkedRow } from './analysis/marks'
export {
  analyse,
  analyseShare,
  type AnalysisListener,
  type AnalysisShare,
} from './analysis/analyse'

export {
  analyseStanding,
  type Consequences,
  type ChangedRow,
  type Standing,
  type StandingAnalysis,
} from './analysis/standing'

export { shareWith } from './model/share'
export { entriesFrom, entriesOf } from './exits/entries'
export {
  gatherSeen,
  readOnlooker,
  subnetSeenBy,
  type Onlooker,
  type SeenAddress,
  type Lasting,
  type SeenAs,
  type SubnetSeen,
} from './addresses/seen-as'

export {
  carve,
  lengthForParts,
  MOST_PARTS,
  spaceOf,
  usableOf,
  type NetworkSpace,
  type Part as CarvedPart,
  type SpaceRange,
} from './addresses/space'
export { hopsByOwner, type Destination, type HopsByOwner } from './addresses/destinations'

export { allOf, estateGraph, marksOf, MOST_OUTSIDE, MOST_UNFOLDED } from './map/graph'
export {
  MAP_COLUMNS,
  type EstateGraph,
  type MapColumn,
  type MapEdge,
  type MapNode,
  type MapSubnet,
} from './map/node'

export { graphDot } from './map/dot'
export { graphBetween, joinKey, type GraphDifference, type MapChange } from './map/difference'
export { aboutFinding, CHECKS, familyOfCode, FINDINGS } from './findings/records'
export type { FindingRecord } from './findings/record'
export { mendOf, trialOf } from './findings/mending'
export { ROOT_KINDS, type Root, type RootKind } from './findings/root'
export { rootCauses, type DecidedBy, type RootCause } from './root-causes/root-causes'
export { decidesText } from './root-causes/words'
export {
  rootCauseJson,
  tellRootCause,
  type RootCauseJson,
  type ToldRootCause,
} from './root-causes/json'
export { networkOfFinding } from './findings/network'
export { CAUSE_CODES } from './walk/causes'
export { budgetOf, MOST_PAIRS, type Budget } from './consequences/budget'
export {
  consequencesOf,
  stateOf,
  type AnalysedState,
  type Consequences as ChangeConsequences,
  type ConsequencesJson,
  type WaysInChange,
} from './consequences/consequences'
export { pairSenders, type Pair, type PairedSender } from './consequences/ends'
export { expectationChanges, findingChanges, type FindingChanges } from './consequences/findings'
export type { PacketRowJson } from './consequences/json'
export { allCandidates, packetsAmong, type PacketDifferences } from './consequences/packets'
export { candidatesOf } from './consequences/reach'
export type { PairWays } from './compare/ways'
export { waysOf, type Ways } from './hops/ways'
export type { Row } from './consequences/rows'
export { rowText } from './consequences/words'
export { outageOf, type NoOutage, type Outage } from './moves/fail'
export { DIFFERENCE_KINDS, tellPackets, type ToldPackets, type ToldRow } from './consequences/told'
export type { DifferenceKind } from './consequences/fate'
export {
  foresightOf,
  type ForeseenExpectation,
  type Foreseen,
  type ForeseenAtOnce,
  type ForeseenSoFar,
  type Foresight,
} from './consequences/foresee'
export { proverOf, type Prover, type Tried } from './proposals/prover'
export {
  proposalsFor,
  proposalsForQuestion,
  USUAL_LIMITS,
  type Proposal,
  type ProposalLimits,
} from './proposals/propose'
export { proposalAtOnce, type ProposalAtOnce } from './proposals/at-once'
export { proposalJson, tellProposal, type ProposalJson, type ToldProposal } from './proposals/json'
export type { Blank } from './mend/mend'
export { purposeOfFinding, purposeOfQuestion, type Purpose } from './proposals/purpose'
export { harmOfPackets, type Harm } from './proposals/harm'
export { stoodBefore } from './proposals/stood-before'
export { planOf, type Plan, type PlanStep } from './plans/plan'
export {
  changeOf,
  changesOf,
  madeLater,
  nextRedo,
  nextUndo,
  takingBack,
  type DraftEntry,
} from './drafts/log'
export { conflictText, rebasedOnto, type DraftConflict } from './drafts/onto'
export { searchEstate, type FoundObject } from './objects/search'
export { objectPage, type ObjectPage } from './objects/page'
export { referencesOf, type References } from './objects/references'
export { shadowing, type RouteTarget, type Shadowing } from './objects/targets'
export { planText } from './plans/text'
export { moveIn, type Move } from './moves/moves'
export { type Moved, type NotMoved } from './moves/move'
export { waysOut, type WayOut } from './moves/way-out'
export { filesAfter } from './drafts/files'
export * from './likeness/likeness'
export { differencesOf, type Distinction } from './likeness/words'
