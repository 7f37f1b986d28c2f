/** The part of verovio that is used here; the package ships no types for these entries. */
declare module 'verovio/wasm' {
  const createModule: () => Promise<unknown>
  export default createModule
}
declare module 'verovio/esm' {
  export class VerovioToolkit {
    constructor(module: unknown)
    setOptions(options: Record<string, unknown>): void
    loadData(data: string): boolean
    renderToSVG(page: number): string
    /** Base64 of a Standard MIDI File. */
    renderToMIDI(): string
    /** What was loaded, as MEI. */
    getMEI(options?: Record<string, unknown>): string
    getVersion(): string
  }
  export const LOG_OFF: number
  export function enableLog(level: number, module: unknown): void
}
