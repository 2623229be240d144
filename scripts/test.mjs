// Everything that must hold: lint, types, unit tests, end-to-end tests. Closes with a line "N passed, N failed".
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const CHROMIUM = process.env.CHROMIUM ?? '/usr/bin/chromium'
let passed = 0, failed = 0

function run(command, args) {
  return spawnSync(command, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] }).status === 0
}

/** The same beside others; gives whether it went well. */
function start(command, args) {
  return new Promise(resolve => spawn(command, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] }).on('error', () => resolve(false)).on('close', code => resolve(code === 0)))
}

function step(name, ok) {
  console.log(`${ok ? 'ok' : 'FAILED'}: ${name}`)
  if (ok) passed++
  else failed++
}

/** Runs a Vitest suite and adds up its counts; a suite that cannot even start counts as one failure. */
function suite(name, args) {
  const report = join(mkdtempSync(join(tmpdir(), 'oak-stilts-test-')), 'report.json')
  const ok = run('npx', ['vitest', 'run', '--reporter=default', '--reporter=json', `--outputFile.json=${report}`, ...args])
  if (!existsSync(report)) {
    step(name, false)
    return
  }
  const result = JSON.parse(readFileSync(report, 'utf8'))
  passed += result.numPassedTests
  failed += result.numFailedTests
  // a file that fails outside its tests, or no test at all, is a failure too
  if (!ok && result.numFailedTests === 0) failed++
  if (result.numTotalTests === 0) failed++
}

if (!existsSync(join(root, 'node_modules', '.package-lock.json')) && !run('npm', ['ci', '--no-audit', '--no-fund'])) {
  console.log('0 passed, 1 failed')
  process.exit(1)
}
if (!existsSync(CHROMIUM) && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
  console.log('Installing Chromium for the end-to-end tests.')
  run('sh', ['-c', 'apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium > /dev/null'])
}
const [lint, types, built] = await Promise.all([start('npx', ['eslint', '.']), start('npm', ['run', '--silent', 'typecheck']), start('npm', ['run', '--silent', 'build'])])
step('lint', lint)
step('types', types)
step('build of the page', built)
suite('unit tests', [])
if (!existsSync(CHROMIUM)) {
  console.log(`The end-to-end tests need Chromium at ${CHROMIUM}. Install it, or set CHROMIUM to its path.`)
  step('end-to-end tests', false)
} else if (built) suite('end-to-end tests', ['--config', 'e2e/vitest.config.ts'])
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed > 0 ? 1 : 0)
