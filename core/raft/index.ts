/** Rafts: what stilts stand on, made from their feet by a rule. */
export { feetOf, raftOf, raftSolid, solidsOfPart, type RaftFoot } from './raft'
