import { streamKey } from '../routing/address'

/** What became of the note-ons of one stream. */
export interface StreamAccount {
  readonly portId: string
  readonly channel: number
  /** Note-ons that arrived. */
  heard: number
  /** Those that became notes of at least one track. */
  captured: number
  /** Outside the pass: in the count-in, too early to belong to the first bar, or after a marked stretch. Kept in the take, not on a track. */
  outside: number
  /** On an address or key that no armed track hears. Kept in the take, not on a track. */
  unrouted: number
  /** Left out by an effect of the source. Kept in the take, not on a track. */
  withheld: number
  /** A pitch that was followed, and taken back for another at the same moment. Kept in the take, not on a track. */
  mended: number
}

export interface TakeAccount {
  /** Note-ons that arrived. */
  readonly heard: number
  /** Those that became notes of at least one track. */
  readonly captured: number
  /** Outside the pass, as in the streams. */
  readonly inCountIn: number
  /** Arrived on an address that no armed track listens to. */
  readonly unrouted: number
  /** Left out by an effect. */
  readonly withheld: number
  /** Pitches that were taken back, as in the streams. */
  readonly mended: number
  /** Ended by the program when recording stopped. */
  readonly endedAtStop: number
  readonly streams: readonly StreamAccount[]
}

/** Adds up the streams. */
export function accountOf(streams: readonly StreamAccount[], endedAtStop: number): TakeAccount {
  const sum = (pick: (stream: StreamAccount) => number) =>
    streams.reduce((total, stream) => total + pick(stream), 0)
  return {
    heard: sum((stream) => stream.heard),
    captured: sum((stream) => stream.captured),
    inCountIn: sum((stream) => stream.outside),
    unrouted: sum((stream) => stream.unrouted),
    withheld: sum((stream) => stream.withheld),
    mended: sum((stream) => stream.mended),
    endedAtStop,
    streams,
  }
}

/** The account of several passes as one, stream by stream. */
export function sumAccounts(accounts: readonly TakeAccount[]): TakeAccount {
  const streams = new Map<string, StreamAccount>()
  for (const account of accounts)
    for (const { portId, channel, heard, captured, outside, unrouted, withheld, mended } of account.streams) {
      const stream = streamOf(streams, portId, channel)
      stream.heard += heard
      stream.captured += captured
      stream.outside += outside
      stream.unrouted += unrouted
      stream.withheld += withheld
      stream.mended += mended
    }
  return accountOf(
    [...streams.values()],
    accounts.reduce((total, account) => total + account.endedAtStop, 0),
  )
}

/** The account of a stream, begun where there is none yet. */
export function streamOf(
  streams: Map<string, StreamAccount>,
  portId: string,
  channel: number,
): StreamAccount {
  const address = streamKey({ portId, channel })
  let stream = streams.get(address)
  if (!stream) {
    stream = { portId, channel, heard: 0, captured: 0, outside: 0, unrouted: 0, withheld: 0, mended: 0 }
    streams.set(address, stream)
  }
  return stream
}
