/**
 * What supports bear while a model is printed, and what they can: which of them hold what in every layer, shared by how they resist, with
 * the model rigid and the supports a frame of tapered beams. Estimates.
 */
export { beamsUnder, worstLayers, type BeamStrength, type FootStrength, type StretchStrength } from './beams'
export { Holding, type LetGo } from './holding'
export { Pieces, type Piece, type PieceGraph } from './pieces'
export { borneBy, toldAbout, type Borne } from './sections'
export { idleEnds, letEachGo, neededEnds, type Missed } from './let-go'
export { pushesIn, pushesNow, type Pushes } from './pushes'
export { cupPulls, pullsOf, SIDES, strengthOf, swayLanes, type EndStrength, type FilmLoads, type Strength, type StrengthLanes, type StrengthResin } from './strength'
export { swayEnergies, swayMotion, swaysOver, type Sway, type SwayMotion } from './sway'
export { eulerLoad, stretchesOf, type Stretch } from './stretches'
export { supportFrames, type Hold, type SupportFrame } from './supports'
