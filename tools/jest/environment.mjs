import { TestEnvironment } from 'jest-environment-node'

/** Loaded at the first wish, once for all test files of a process: each context on its own takes seconds to do so. */
let loading

function loadEngravingLibrary() {
  loading ??= Promise.all([import('verovio/esm'), import('verovio/wasm')]).then(
    async ([{ VerovioToolkit }, { default: createModule }]) => ({
      VerovioToolkit,
      module: await createModule(),
    }),
  )
  return loading
}

/** The environment of the unit tests: Node's, with the engraving library that `engravingLibrary.cjs` hands out. */
export default class extends TestEnvironment {
  constructor(config, context) {
    super(config, context)
    this.global.loadEngravingLibrary = loadEngravingLibrary
  }
}
