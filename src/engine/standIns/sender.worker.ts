import { ClockFollower, isClockStatus } from '@/core/midi/clock'
import { sentNotes } from '@/core/programs/senderPattern'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import { type CableEvent, CableReader, CableWriter } from '../cables/cable'
import { epochNowMs } from '../clock'

/** What the stand-in sender is told. */
export type ToSender =
  | {
      readonly type: 'start'
      readonly cable: string
      readonly channels: number
      readonly tempoBpm: number
      /** Waits for the clock on the cable and plays along with it. */
      readonly follows: boolean
    }
  | { readonly type: 'stop' }

/** What it says of itself. */
export interface SenderReport {
  readonly state: 'stopped' | 'waiting for a clock' | 'playing'
  readonly ticks: Ticks
  readonly tempoBpm: number
  readonly sentNotes: number
}

type Running = Extract<ToSender, { type: 'start' }> & {
  readonly writer: CableWriter
  readonly reader: CableReader | null
  readonly follower: ClockFollower
}

let running: Running | null = null
let startedAtMs: Milliseconds = 0
let playedTicks: Ticks = 0
let isPlaying = false
let sent = 0
let pendingOffs: (CableEvent & { readonly ticks: Ticks })[] = []

self.onmessage = ({ data }: MessageEvent<ToSender>) => {
  stop()
  if (data.type === 'stop') return
  const follower = new ClockFollower()
  const reader = data.follows
    ? new CableReader(data.cable, 'Stand-in sender', (events) => {
        for (const { timeMs, bytes } of events)
          if (isClockStatus(bytes[0]!)) follower.receive(bytes[0]!, bytes[1] ?? 0, bytes[2] ?? 0, timeMs)
      })
    : null
  running = { ...data, writer: new CableWriter(data.cable), reader, follower }
  startedAtMs = epochNowMs() + 50
  playedTicks = 0
  sent = 0
  isPlaying = !data.follows
}

/** Ends every note before going. */
function stop(): void {
  if (!running) return
  releaseAll()
  running.writer.close()
  running.reader?.close()
  running = null
  isPlaying = false
}

function releaseAll(): void {
  const timeMs = epochNowMs()
  running?.writer.send(pendingOffs.map(({ bytes }) => ({ timeMs, bytes })))
  pendingOffs = []
}

/** Where the music is now and how to tell the moment of a place; null while a clock is waited for. */
function musicNow(
  nowMs: Milliseconds,
): { ticks: Ticks; msAt(ticks: Ticks): Milliseconds; tempoBpm: number } | null {
  if (!running) return null
  if (!running.follows) {
    const msPerTick = 60_000 / running.tempoBpm / TICKS_PER_QUARTER
    return {
      ticks: (nowMs - startedAtMs) / msPerTick,
      msAt: (ticks) => startedAtMs + ticks * msPerTick,
      tempoBpm: running.tempoBpm,
    }
  }
  const clock = running.follower.at(nowMs)
  if (clock.state === 'stopped') return null
  const msPerTick = 60_000 / clock.tempoBpm / TICKS_PER_QUARTER
  return {
    ticks: clock.ticks + (nowMs - clock.timeMs) / msPerTick,
    msAt: (ticks) => clock.timeMs + (ticks - clock.ticks) * msPerTick,
    tempoBpm: clock.tempoBpm,
  }
}

let lastTempo = 0

setInterval(() => {
  const nowMs = epochNowMs()
  const music = musicNow(nowMs)
  if (running && music) {
    lastTempo = music.tempoBpm
    // A clock that starts again starts the pattern where it stands.
    if (!isPlaying || music.ticks < playedTicks - TICKS_PER_QUARTER)
      playedTicks = Math.max(0, Math.floor(music.ticks))
    isPlaying = true
    const toTicks = Math.floor(music.ticks)
    const events: CableEvent[] = []
    for (const off of pendingOffs.filter((each) => each.ticks < toTicks))
      events.push({ timeMs: music.msAt(off.ticks), bytes: off.bytes })
    pendingOffs = pendingOffs.filter((each) => each.ticks >= toTicks)
    for (const note of sentNotes(running.channels, playedTicks, toTicks)) {
      const nibble = note.channel - 1
      events.push({ timeMs: music.msAt(note.onsetTicks), bytes: [0x90 | nibble, note.key, note.velocity] })
      pendingOffs.push({
        ticks: note.onsetTicks + note.durationTicks,
        timeMs: 0,
        bytes: [0x80 | nibble, note.key, 64],
      })
      sent++
    }
    playedTicks = Math.max(playedTicks, toTicks)
    if (events.length > 0) running.writer.send(events.sort((a, b) => a.timeMs - b.timeMs))
  } else if (isPlaying && running?.follows) {
    releaseAll()
    isPlaying = false
  }
}, 4)

setInterval(() => {
  const report: SenderReport = {
    state: !running ? 'stopped' : isPlaying ? 'playing' : 'waiting for a clock',
    ticks: playedTicks,
    tempoBpm: lastTempo,
    sentNotes: sent,
  }
  self.postMessage(report)
}, 100)
