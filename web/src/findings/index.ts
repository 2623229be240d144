/** Findings: what a person is to look at. One file a kind, one registry, and the worklist that is made of them. */
export { CLASS_NAMES, evidence, shareText, STATE_NAMES, STATES, volumeText, type Finding, NO_OPENINGS, type FindingKind, type NearPairs, type OpeningTroubles, type Row, type ShownState } from './types'
export { FINDING_KINDS, kindOf, KINDS } from './registry'
export { adviceFor, groupsOf, sumOf, knownAt, NO_FILTER, OPEN_ONLY, passes, troublesOf, worklistOf, type Filter, type FindingGroup, type Worklist } from './worklist'
