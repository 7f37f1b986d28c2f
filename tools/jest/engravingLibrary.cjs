/**
 * Stands for `verovio/esm` and `verovio/wasm` in unit tests: the same library, loaded once outside the contexts of the test files
 * (`environment.mjs`). Each file has toolkits of its own.
 */
exports.__esModule = true

exports.default = () => globalThis.loadEngravingLibrary()

/** What the library remarks is seen in the tests. */
exports.enableLog = () => undefined
exports.LOG_OFF = 0

exports.VerovioToolkit = class {
  constructor({ VerovioToolkit, module }) {
    // biome-ignore lint/correctness/noConstructorReturn: a toolkit of the library's own, made in its context
    return new VerovioToolkit(module)
  }
}
