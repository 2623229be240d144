/**
 * A forest of supports: how much room there is around a part, which ways lead down to the plate, and heads gathered in forks on shared
 * trunks.
 */
export { headAt, slimSizes, type HeadSeat } from './heads'
export { beamsOfTree, grown, headsOfTree, type Forest, type Growing } from './grow'
export { Room } from './room'
export { rowsOfTrees, type Tree } from './rows'
export { leastDiameter, type Head } from './twig'
export { Ways } from './ways'
