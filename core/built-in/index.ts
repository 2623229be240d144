/** Supports that a mesh arrives with: found, measured, and lifted out as stilts that can be edited. */
export { findSupports, recognise, type BuiltIn, type BuiltInBrace, type BuiltInSupport, type BuiltInTip } from './recognise'
export { liftOut, type LiftedOut } from './lift-out'
