/** Frames of tapered beams by direct stiffness: what they resist, how they move, what each beam bears. */
export { carriedBy, endStiffness, type Material, type Taper } from './beam'
export { bucklingFactor } from './buckling'
export { FrameFactor } from './factor'
export { ALL, Frame, PINNED, type BeamForces, type FrameBeam } from './frame'
