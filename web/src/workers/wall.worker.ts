import { expose, transfer } from 'comlink'
import { handedOver, wallHelp, type WallTasks } from '@oak-stilts/core/hollow'
import { holdLife } from './supervised'

const help = wallHelp()

/** Does what it is asked of the work on an inner wall, so that all cores make a hollow together. */
const wallWorker = {
  help<T extends keyof WallTasks>(task: T, asked: WallTasks[T]['asked']): WallTasks[T]['told'] {
    const told = help(task, asked)
    return told === null ? told : transfer(told, handedOver(told))
  },
}

export type WallWorker = typeof wallWorker
expose(wallWorker)
holdLife()
