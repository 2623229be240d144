import { accessSync, closeSync, constants, fstatSync, fsyncSync, openSync, readFileSync, readSync, renameSync, rmSync, statSync, writeFileSync, writeSync } from 'node:fs'
import { dirname } from 'node:path'
import { AnyPlanFileSchema, type AnyPlanFile } from '@oak-stilts/core/contract'
import { readModel, sourceOfFile, type ByteSource, type ModelFile } from '@oak-stilts/core/mesh'
import { UsageError } from './arguments'

/** Works with a file as it lies on disk. @throws UsageError where it cannot be read */
export async function withFile<T>(path: string, work: (source: ByteSource) => Promise<T>): Promise<T> {
  let file: number
  try {
    file = openSync(path, 'r')
  } catch (error) {
    throw new UsageError(`The file ${path} cannot be read: ${(error as Error).message}`)
  }
  try {
    return await work(sourceOfFile(fstatSync(file).size, (buffer, at) => readSync(file, buffer, 0, buffer.length, at)))
  } finally {
    closeSync(file)
  }
}

/** Reads a model file. @throws MeshError, UsageError */
export function read(path: string): Promise<ModelFile> {
  return withFile(path, source => readModel(source))
}

/** The bytes of a file. @throws UsageError */
export function readBytes(path: string): Uint8Array {
  try {
    return readFileSync(path)
  } catch (error) {
    throw new UsageError(`The file ${path} cannot be read: ${(error as Error).message}`)
  }
}

/** Reads a plan. @throws UsageError */
export function loadPlan(path: string): AnyPlanFile {
  let text: unknown
  try {
    text = JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new UsageError(`The plan ${path} cannot be read: ${(error as Error).message}`)
  }
  const parsed = AnyPlanFileSchema.safeParse(text)
  if (!parsed.success) throw new UsageError(`${path} is not a plan of stilts: ${parsed.error.issues[0].path.join('.')} ${parsed.error.issues[0].message}`)
  return parsed.data
}

function isFolder(path: string): boolean {
  try {
    return statSync(path).isDirectory()
  } catch {
    return false
  }
}

/** @throws UsageError where a file cannot be written to this path */
export function checkOutput(path: string): void {
  if (isFolder(path)) throw new UsageError(`${path} is a folder. Name a file in it.`)
  const folder = dirname(path)
  if (!isFolder(folder)) throw new UsageError(`There is no folder ${folder} to write to. Make it first, or name another one.`)
  try {
    accessSync(folder, constants.W_OK)
  } catch {
    throw new UsageError(`The folder ${folder} cannot be written. Name another one.`)
  }
}

/** Writes a file whole or not at all. @throws UsageError */
export function save(path: string, content: string | Uint8Array): void {
  const part = `${path}.${process.pid}.part`
  try {
    writeFileSync(part, content)
    renameSync(part, path)
  } catch (error) {
    rmSync(part, { force: true })
    const { code } = error as { code?: string }
    throw new UsageError(code === 'ENOSPC' ? `The disk is full: ${path} was not written.` : `${path} cannot be written (${code ?? (error as Error).message}).`)
  }
}

/** Writes a file piece by piece, whole or not at all. @throws UsageError, and what the work throws */
export async function saveInPieces<T>(path: string, work: (write: (bytes: Uint8Array) => void) => Promise<T>): Promise<T> {
  const part = `${path}.${process.pid}.part`
  let file: number | null = null
  try {
    file = openSync(part, 'w')
    const to = file, done = await work(bytes => {
      for (let at = 0; at < bytes.length;) at += writeSync(to, bytes, at)
    })
    fsyncSync(file)
    closeSync(file)
    file = null
    renameSync(part, path)
    return done
  } catch (error) {
    if (file !== null) closeSync(file)
    rmSync(part, { force: true })
    const { code } = error as { code?: string }
    if (!code || !/^E[A-Z]+$/.test(code)) throw error
    throw new UsageError(code === 'ENOSPC' ? `The disk is full: ${path} was not written.` : `${path} cannot be written (${code}).`)
  }
}

/** What a file of JSON holds. @throws UsageError where it holds none */
export function jsonFrom(name: string): unknown {
  try {
    return JSON.parse(readFileSync(name, 'utf8'))
  } catch {
    throw new UsageError(`${name} is no JSON.`)
  }
}
