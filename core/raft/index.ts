/** Rafts: what stilts stand on, made from their feet by a rule. */
export { feetOf, raftAsked, raftOf, raftSolid, solidsOfPart, stiltSolids, type RaftFoot } from './raft'
