/** How a part stands on the plate: lift, tilt and turn in one convention, and the matrices that follow from it. */
export * from './pose'
export * from './copy'
export * from './shape'
export * from './size-sense'
export * from './pose-tools'
export * from './directions'
