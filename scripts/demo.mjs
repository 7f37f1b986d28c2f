/** `npm run demo`: installs, builds and starts, and says where. The demo waits on the first page. */
import { spawn } from 'node:child_process'
import { createServer } from 'node:net'
import { installPackages, run } from './install.mjs'

installPackages()
if (run('node', ['scripts/build-threads.mjs']) !== 0) process.exit(1)
if (run('npx', ['next', 'build']) !== 0) process.exit(1)
if (run('node', ['scripts/build-offline.mjs']) !== 0) process.exit(1)

/** The wanted port, or the next free one. */
async function freePort(port) {
  const isFree = await new Promise((resolve) => {
    const server = createServer()
    server.once('error', () => resolve(false))
    server.listen(port, () => server.close(() => resolve(true)))
  })
  return isFree ? port : freePort(port + 1)
}

const port = await freePort(Number(process.env.PORT ?? 3000))
// The server and its children are one group, so that ending this ends all of it.
const server = spawn('npx', ['next', 'start', '-p', String(port)], {
  stdio: ['ignore', 'pipe', 'inherit'],
  detached: true,
})
server.stdout.on('data', (text) => {
  if (String(text).includes('Ready'))
    process.stdout.write(
      `\nUnbroken Voice is at http://localhost:${port} (open the demo there; Ctrl+C ends it)\n`,
    )
})
const end = () => {
  try {
    process.kill(-server.pid, 'SIGTERM')
  } catch (error) {
    if (error.code !== 'ESRCH') throw error
  }
  process.exit(0)
}
process.on('SIGINT', end)
process.on('SIGTERM', end)
server.on('exit', (code) => process.exit(code ?? 1))
