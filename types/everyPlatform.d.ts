/**
 * What every JavaScript platform has besides the language: all that the core may use of it. Only the core is compiled with
 * this file, and with nothing of the browser or Node.js.
 */
declare class TextEncoder {
  encode(text?: string): Uint8Array<ArrayBuffer>
}
declare class TextDecoder {
  constructor(encoding?: string, options?: { readonly fatal?: boolean })
  decode(bytes?: Uint8Array): string
}
declare function structuredClone<Value>(value: Value): Value
