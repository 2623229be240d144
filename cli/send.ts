import { createHash } from 'node:crypto'
import type { SendReport } from '@oak-stilts/core/contract'
import { checkDigest, openPackage, sendPackage, type PrinterLink } from '@oak-stilts/core/print'
import type { Options } from './arguments'
import { withFile } from './files'
import type { Output } from './output'

/** Sends a package of layers to a printer, in pieces; what an earlier time has brought over is not sent again. */
export async function send({ file, to, json }: Options, output: Output): Promise<void> {
  const address = to as string
  const report = await withFile(file as string, async (source): Promise<SendReport> => {
    for (const steps = checkDigest(source); !steps.next().done;);
    const { name } = await openPackage(source, found => Promise.resolve(found.manifest)), hash = createHash('sha256')
    for (let at = 0; at < source.size; at += 1 << 20) hash.update(source.read(at, Math.min(1 << 20, source.size - at)))
    let alreadyThere = -1
    const { printer } = await sendPackage({ name, bytes: source.size, sha256: hash.digest('hex'), piece: (at, length) => Promise.resolve(source.read(at, length).slice()) }, {
      ask: linkTo(address), wait: ms => new Promise(resolve => setTimeout(resolve, ms)), goesOn: () => undefined,
      told: arrived => {
        if (alreadyThere < 0) alreadyThere = arrived
      },
    })
    return { to: address, printer: printer.name, name, bytes: source.size, alreadyThere: Math.max(0, alreadyThere) }
  })
  output.result(json ? JSON.stringify(report) : `${report.printer} has “${report.name}”, ${(report.bytes / 1e6).toFixed(1)} MB, checked to the last byte${report.alreadyThere > 0 ? `; ${(report.alreadyThere / 1e6).toFixed(1)} MB of it were there already` : ''}.`)
}

function linkTo(address: string): PrinterLink {
  return async (method, path, sent) => {
    const answer = await fetch(`${address}${path}`, {
      method, headers: { ...(sent?.json !== undefined && { 'Content-Type': 'application/json' }), ...(sent?.piece !== undefined && { 'Content-Type': 'application/offset+octet-stream' }), ...sent?.headers },
      body: sent?.json !== undefined ? JSON.stringify(sent.json) : (sent?.piece as BodyInit | undefined),
    })
    return { status: answer.status, body: (await answer.json().catch(() => null)) as unknown }
  }
}
