// Starts Oak Stilts from a fresh clone: installs what is missing, builds the page when its sources are newer, serves.
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')

export function run(command, args) {
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit' })
  if (done.status !== 0) process.exit(done.status ?? 1)
}

/** The newest change below some folders, in milliseconds. */
function newest(folders) {
  let time = 0
  for (const folder of folders) {
    for (const entry of readdirSync(folder, { withFileTypes: true })) {
      if (entry.name === 'node_modules' || entry.name === 'dist') continue
      const path = join(folder, entry.name)
      time = Math.max(time, entry.isDirectory() ? newest([path]) : statSync(path).mtimeMs)
    }
  }
  return time
}

if (!existsSync(join(root, 'node_modules', '.package-lock.json'))) run('npm', ['ci', '--no-audit', '--no-fund'])
const page = join(root, 'web', 'dist', 'index.html'), main = join(root, 'dist', 'main.mjs')
const isStale = (built, sources) => !existsSync(built) || statSync(built).mtimeMs < newest(sources.map(s => join(root, s)))
if (isStale(page, ['web', 'core']) || isStale(main, ['server', 'demo', 'core'])) run('npm', ['run', '--silent', 'build'])

const server = spawn(process.execPath, [main], { cwd: root, stdio: 'inherit', env: { DATA_DIR: join(root, 'data'), ...process.env } })
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', code => process.exit(code ?? 0))
