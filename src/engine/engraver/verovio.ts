import type { VerovioToolkit } from 'verovio/esm'

/** Loads the engraving library (WebAssembly) into this thread; until it is asked for, nothing of it is there. */
export async function loadVerovio(): Promise<VerovioToolkit> {
  const [{ VerovioToolkit: Toolkit }, { default: createModule }] = await Promise.all([
    import('verovio/esm'),
    import('verovio/wasm'),
  ])
  return new Toolkit(await createModule())
}
