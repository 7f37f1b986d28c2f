import { VerovioToolkit } from 'verovio/esm'
import createVerovioModule from 'verovio/wasm'

/** Loads the engraving library (WebAssembly) into this thread. */
export async function loadVerovio(): Promise<VerovioToolkit> {
  return new VerovioToolkit(await createVerovioModule())
}
