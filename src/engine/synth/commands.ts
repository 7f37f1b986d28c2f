/**
 * What the engine worker and the window tell the synthesiser in the audio worklet.
 *
 * Timed commands travel as rows of five numbers, many in one message: when to act (audio time in seconds, 0 for at
 * once), the synthesiser channel, and the three bytes of a channel-voice message without its channel.
 */
export const commandFields = 5

export interface TimedCommand {
  readonly atSeconds: number
  readonly synthChannel: number
  readonly status: number
  readonly data1: number
  readonly data2: number
}

export type SynthMessage =
  | { readonly type: 'commands'; readonly rows: Float64Array }
  /** Forgets what is scheduled after `fromSeconds` and ends every note of the channels (all when absent). */
  | { readonly type: 'cancel'; readonly synthChannels?: readonly number[] }
  | { readonly type: 'bank'; readonly id: string; readonly bytes: ArrayBuffer }
  | { readonly type: 'instrument'; readonly synthChannel: number; readonly instrument: number | 'drums' }
  | {
      readonly type: 'level'
      readonly synthChannel: number
      readonly volume: number
      readonly pan: number
      readonly tuningCents: number
    }
  | { readonly type: 'connect'; readonly port: MessagePort }
  /** Asks for an `arrived` answer to each live command: for measuring. */
  | { readonly type: 'measure'; readonly isOn: boolean }

export type SynthReport =
  | { readonly type: 'bankReady'; readonly id: string }
  | { readonly type: 'bankFailed'; readonly id: string; readonly reason: string }
  | { readonly type: 'peak'; readonly left: number; readonly right: number; readonly voices: number }
  | { readonly type: 'arrived'; readonly epochMs: number; readonly key: number }

export function packCommands(commands: readonly TimedCommand[]): Float64Array {
  const rows = new Float64Array(commands.length * commandFields)
  for (const [index, command] of commands.entries()) {
    const row = index * commandFields
    rows[row] = command.atSeconds
    rows[row + 1] = command.synthChannel
    rows[row + 2] = command.status
    rows[row + 3] = command.data1
    rows[row + 4] = command.data2
  }
  return rows
}

/** What the synthesiser is made with. */
export interface SynthOptions {
  /** Whether samples are decoded when their instrument comes, and not at the first note. */
  readonly decodesAhead: boolean
}
