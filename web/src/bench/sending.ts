import { computed, shallowRef } from 'vue'
import type { PrinterFaults, PrinterOrder, PrinterState, Simulation } from '@oak-stilts/core/contract'
import { PrinterSaysNo, sendPackage } from '@oak-stilts/core/print'
import { api } from '../api/client'
import type { BenchContext } from './context'
import type { createSlicing } from './slicing'

/** Printers are looked for this often, ms. */
const LOOK_EVERY_MS = 4000

class SendingLeft extends Error {}

/** The printers that are found: what they do, what they are sent, what they are told. */
export function createSending({ store, say }: BenchContext, { sliced, slicedStale }: ReturnType<typeof createSlicing>) {
  /** Null before anybody looked. */
  const printers = shallowRef<readonly PrinterState[] | null>(null)
  const chosenId = shallowRef<string | null>(null)
  const sendingShare = shallowRef<{ readonly share: number; readonly words: string } | null>(null)
  let timer: ReturnType<typeof setInterval> | null = null, unwatch: (() => void) | null = null, watched = '', leaves = 0, heard = 0

  /** The one that is chosen; else one that is what the job is for. */
  const printer = computed<PrinterState | null>(() => {
    const all = printers.value ?? []
    return all.find(p => p.id === chosenId.value) ?? all.find(p => p.printer.name === store.job?.printer.name) ?? all[0] ?? null
  })

  async function look(): Promise<void> {
    const before = heard
    try {
      const found = await api.printers()
      // what the printer itself said meanwhile is newer than the list
      printers.value = heard === before ? found : found.map(p => (p.id === watched ? (printers.value?.find(o => o.id === p.id) ?? p) : p))
    } catch {
      // the server is away for a while: what was known is shown until it is back
      return
    }
    const now = printer.value?.id ?? ''
    if (now === watched) return
    unwatch?.()
    watched = now
    unwatch = now ? api.watchPrinter(now, state => {
      if (watched !== state.id) return
      heard++
      printers.value = (printers.value ?? []).map(p => (p.id === state.id ? state : p))
    }, () => {
      // the next look takes it up again
      if (watched === now) watched = ''
    }) : null
  }
  /** Looks for printers until it is left. */
  function watchPrinters(): void {
    if (timer) return
    void look()
    timer = setInterval(() => void look(), LOOK_EVERY_MS)
  }
  function leavePrinters(): void {
    if (timer) clearInterval(timer)
    timer = null
    unwatch?.()
    unwatch = null
    watched = ''
  }
  function choosePrinter(id: string): void {
    chosenId.value = id
    void look()
  }

  const tell = (error: unknown): void => say((error as Error).message)
  async function startSimulated(): Promise<void> {
    try {
      printers.value = await api.simulatePrinters()
      await look()
    } catch (error) {
      tell(error)
    }
  }
  /** Gives whether it did what it was told. */
  async function orderPrinter(order: PrinterOrder): Promise<boolean> {
    const { value: to } = printer
    if (!to) return false
    try {
      await api.orderPrinter(to.id, order)
      return true
    } catch (error) {
      tell(error)
      return false
    } finally {
      await look()
    }
  }
  async function simulate(what: Simulation): Promise<void> {
    const { value: to } = printer
    if (!to) return
    try {
      await api.simulatePrinter(to.id, what)
    } catch (error) {
      tell(error)
    }
    await look()
  }
  /** The power of the chosen printer goes, and comes back after a moment. */
  async function cutPower(): Promise<void> {
    const { value: to } = printer
    if (!to) return
    await simulate({ power: false })
    say(`${to.printer.name} has no power.`)
    setTimeout(() => void api.simulatePrinter(to.id, { power: true }).then(() => {
      // what was watched ended with the power
      watched = ''
      return look()
    }).catch(tell), 3000)
  }
  const setFaults = (faults: Partial<PrinterFaults>): Promise<void> => simulate({ faults })

  /** Sends what was sliced to the chosen printer; what an earlier time brought over is not sent again. */
  async function send(): Promise<void> {
    const { value: to } = printer, { value: made } = sliced, own = ++leaves
    if (!to || !made || slicedStale.value || sendingShare.value) return
    sendingShare.value = { share: 0, words: 'Sending' }
    try {
      await sendPackage({ name: made.manifest.name, bytes: made.blob.size, sha256: made.sha256, piece: (at, length) => Promise.resolve(made.blob.slice(at, at + length)) }, {
        ask: api.printerLink(to.id), wait: ms => new Promise(resolve => setTimeout(resolve, ms)),
        told: arrived => {
          sendingShare.value = { share: arrived / made.blob.size, words: arrived < made.blob.size ? `${(arrived / 1e6).toFixed(1)} of ${(made.blob.size / 1e6).toFixed(1)} MB` : 'The printer checks it' }
        },
        goesOn: () => {
          if (own !== leaves) throw new SendingLeft()
        },
      })
      say(`${to.printer.name} has it, checked to the last byte.`)
    } catch (error) {
      if (!(error instanceof SendingLeft)) say(error instanceof PrinterSaysNo ? `${to.printer.name} did not take it. ${error.message}` : `It was not sent: ${(error as Error).message}`)
      else say('Sending was left off. What has arrived stays at the printer.')
    } finally {
      sendingShare.value = null
    }
    await look()
  }
  function leaveSending(): void {
    leaves++
  }

  return { printers, printer, sending: sendingShare, watchPrinters, leavePrinters, choosePrinter, startSimulated, orderPrinter, simulate, cutPower, setFaults, send, leaveSending }
}
