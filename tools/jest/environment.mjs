import vm from 'node:vm'
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

/**
 * The environment of the unit tests: Node's, with the engraving library that `engravingLibrary.cjs` hands out, in a context without
 * interceptors where this version of Node.js has such. In a usual one every look at a global name goes through an interceptor, which makes
 * numeric code several times slower.
 */
const plain = vm.constants?.DONT_CONTEXTIFY
const { createContext } = vm

class UnitTestEnvironment extends TestEnvironment {
  constructor(config, context) {
    super(config, context)
    this.global.loadEngravingLibrary = loadEngravingLibrary
  }
}

/** The usual environment makes its context while it is constructed; there is no other way to say of which kind. */
export default new Proxy(UnitTestEnvironment, {
  construct(target, given, newTarget) {
    if (plain) vm.createContext = () => createContext(plain)
    try {
      return Reflect.construct(target, given, newTarget)
    } finally {
      vm.createContext = createContext
    }
  },
})
