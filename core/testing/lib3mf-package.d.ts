declare module '@3mfconsortium/lib3mf' {
  import type { Lib3mf } from './lib3mf'
  const start: () => Promise<Lib3mf>
  export default start
}
