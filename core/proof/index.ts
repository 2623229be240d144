/** Whether a part holds while it is printed, and what its supports leave behind. */
export { sideName, SWAY_LIMIT_MM } from './checks'
export { prove, type Proof, type Proven, type ProvenEnd } from './prove'
export { barestSkin, type Bare } from './skin'
export { SIDE_SHARE, type EndStrength, type Missed, type StrengthLanes } from './strength'
