/** The server: API, storage and the built page. */
export { startServer, type Running, type StartOptions } from './start'
export { demoStl } from './seed'
