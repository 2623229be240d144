import { parentPort } from 'node:worker_threads'
import { handedOver, wallHelp, type WallTasks } from '@oak-stilts/core/hollow'

/** One core of `hollow`: does what it is asked of the work on an inner wall. */
const help = wallHelp()
parentPort?.on('message', <T extends keyof WallTasks>({ task, asked }: { task: T; asked: WallTasks[T]['asked'] }) => {
  let told: WallTasks[T]['told']
  try {
    told = help(task, asked)
  } catch (error) {
    parentPort?.postMessage({ failed: String(error) })
    return
  }
  parentPort?.postMessage({ told }, handedOver(told))
})
