/** Whether a part holds while it is printed, and what its supports leave behind. */
export { LOOSE_SWAY_MM, sideName } from './checks'
export { loadedBy, swayedBy, swaysFrom, type Loaded, type NearSway, type Swayed } from './loaded'
export { prove, type OnPlate, type Proof, type Proven, type ProvenEnd } from './prove'
export { lookAtLayer, type CarryingEnd, type LaidPiece, type LayerEvent, type LayerProof } from './at-layer'
export { barestSkin, type Bare } from './skin'
export { swayEnergies, swayMotion, swaysOver, type EndStrength, type Missed, type StrengthLanes, type SwayMotion } from './strength'
export { withWritten } from './written'
export { beyondLimit, verdictOf, waiverOf } from './verdict'
