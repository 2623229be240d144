import { run } from './run'

process.exitCode = await run(process.argv.slice(2), { result: line => process.stdout.write(`${line}\n`), note: line => process.stderr.write(`${line}\n`) })
