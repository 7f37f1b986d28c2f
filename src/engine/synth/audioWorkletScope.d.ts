/** The part of the AudioWorkletGlobalScope that the synthesiser uses (Web Audio API 1.1, W3C). */
declare abstract class AudioWorkletProcessor {
  readonly port: MessagePort
  abstract process(
    inputs: Float32Array[][],
    outputs: Float32Array[][],
    parameters: Record<string, Float32Array>,
  ): boolean
}
declare const sampleRate: number
declare const currentTime: number
declare function registerProcessor<Options>(
  name: string,
  processor: new (options: { readonly processorOptions: Options }) => AudioWorkletProcessor,
): void
