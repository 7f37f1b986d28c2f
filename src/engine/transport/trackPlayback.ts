import { ChainRun, noteEvents } from '@/core/effects/chainRun'
import type { EffectEvent, EffectNoteOn } from '@/core/effects/noteEffect'
import { planOfTurn, slotsOfTurn } from '@/core/effects/turns'
import type { ControllerEvent, Note } from '@/core/event/note'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { EngineTrack } from '../protocol'
import type { EngineNow } from './engineNow'
import type { LoopLayers } from './loopLayers'
import type { Outlet } from './outlet'
import type { PassWindow } from './timeline'

interface TrackContent {
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}

interface Reading {
  /** What is played, on its way through the track's effects: the content, and in a layered loop the earlier passes. */
  run: ChainRun
  /** Which pass is being read, for the moments of what comes out. */
  pass: number
  controllerIndex: number
  /** Notes handed over whose end is not yet. */
  readonly open: Set<EffectNoteOn>
}

const emptyContent: TrackContent = { notes: [], controllers: [] }

/** Plays what is on the tracks, each through its effects, together with what others give it on the way. */
export class TrackPlayback {
  private readonly contents = new Map<string, TrackContent>()
  private readings = new Map<string, Reading>()
  /** Tracks whose earlier music is silent since somebody plays on them in this recording. */
  private readonly steppedBack = new Set<string>()
  /** Earlier passes of a layered loop. */
  layers: LoopLayers | null = null

  constructor(
    private readonly now: EngineNow,
    private readonly outlet: Outlet,
  ) {}

  setContent(trackId: string, notes: readonly Note[], controllers: readonly ControllerEvent[]): void {
    this.contents.set(trackId, { notes, controllers: [...controllers].sort((a, b) => a.tick - b.tick) })
    const track = this.now.trackOf(trackId)
    if (track && this.now.timeline) this.begin(track)
  }

  forget(trackId: string): void {
    this.contents.delete(trackId)
    this.readings.delete(trackId)
  }

  /** Everything is read from a position, and nothing has stepped back yet. */
  start(): void {
    this.steppedBack.clear()
    this.layers = null
    this.readings = new Map()
    this.rewindAll()
  }

  rewindAll(): void {
    for (const track of this.now.setup.tracks) this.rewind(track)
  }

  /** A track is read anew from where it is, after what sounds has ended. */
  begin(track: EngineTrack): void {
    this.silence(track)
    this.rewind(track)
  }

  /** Puts a track's reading place where the piece is read; controllers before it are chased, so that the sound is right. */
  private rewind(track: EngineTrack): void {
    const { ticks: fromTicks, pass } = this.now.scheduled
    const content = this.contents.get(track.id) ?? emptyContent
    const latest = new Map(baseEvents(track, content.controllers).map((event) => [addressOf(event), event]))
    let controllerIndex = 0
    for (; controllerIndex < content.controllers.length; controllerIndex++) {
      const event = content.controllers[controllerIndex]!
      if (event.tick >= fromTicks) break
      latest.set(addressOf(event), event)
    }
    for (const event of latest.values()) this.outlet.controller(track, event, null)
    const run = this.runOf(track)
    this.readings.set(track.id, { run, pass, controllerIndex, open: new Set() })
  }

  /** What a track has to play, on its way through its effects, read up to where the piece is read without a sound. */
  private runOf(track: EngineTrack): ChainRun {
    const fromTicks = this.now.scheduled.ticks
    let isSilent = true
    const plan = planOfTurn(track, this.now.turnOf(this.now.scheduled.pass))
    const run = new ChainRun(noteEvents(this.notesOf(track.id)), plan, this.now.context, (event) => {
      if (!isSilent) this.comeOut(track.id, event)
    })
    if (!run.skipTo(fromTicks)) run.advance(fromTicks)
    isSilent = false
    return run
  }

  private notesOf(trackId: string): readonly Note[] {
    if (this.steppedBack.has(trackId)) return emptyContent.notes
    const { notes } = this.contents.get(trackId) ?? emptyContent
    const layered = this.layers?.notesOf(trackId) ?? []
    if (layered.length === 0) return notes
    return [...notes, ...layered].sort((a, b) => a.onsetTicks - b.onsetTicks)
  }

  /** Reads on to the end of a window. */
  window(track: EngineTrack, { pass, toTicks }: PassWindow, guests: readonly EffectEvent[]): void {
    const { controllers } = this.contents.get(track.id) ?? emptyContent
    const reading = this.readings.get(track.id)
    if (!reading) return
    reading.pass = pass
    while (
      reading.controllerIndex < controllers.length &&
      controllers[reading.controllerIndex]!.tick < toTicks
    ) {
      const event = controllers[reading.controllerIndex++]!
      this.outlet.controller(track, event, this.msAt(track, pass, event.tick))
    }
    reading.run.advance(toTicks, guests)
  }

  /** A note-on is handed over only when the track is heard; a note-off only when its note-on was. */
  private comeOut(trackId: string, event: EffectEvent): void {
    const track = this.now.trackOf(trackId)
    const reading = this.readings.get(trackId)
    if (!track || !reading || !this.now.timeline) return
    if (event.type === 'on') {
      if (!track.isAudible) return
      reading.open.add(event)
    }
    if (event.type === 'off' && !reading.open.delete(event.of)) return
    this.outlet.event(track, this.msAt(track, reading.pass, event.tick), event)
  }

  private msAt(track: EngineTrack, pass: number, ticks: Ticks): Milliseconds {
    return this.now.timeline!.msAt({ pass, ticks }) + track.offsetMs
  }

  /** What still sounds ends at the turn of a loop. */
  endAt(turnMs: Milliseconds): void {
    for (const track of this.now.setup.tracks)
      for (const on of this.readings.get(track.id)?.open ?? [])
        this.outlet.sound(track, turnMs, 0x80, on.key, 64, on.channel)
  }

  /** The layers have grown: they are read from where the piece is. */
  readLayers(): void {
    for (const track of this.now.setup.tracks) {
      const reading = this.readings.get(track.id)
      if (reading && track.isArmed) reading.run = this.runOf(track)
    }
  }

  /** Other settings take effect from where the piece is read; notes go on. */
  changeEffects(track: EngineTrack): void {
    const { pass, ticks } = this.now.scheduled
    this.readings.get(track.id)?.run.change(ticks, slotsOfTurn(track.slots, this.now.turnOf(pass)))
  }

  /** The music that was there before gives way to whoever plays now. */
  stepBack(track: EngineTrack): void {
    if (this.steppedBack.has(track.id)) return
    this.steppedBack.add(track.id)
    const reading = this.readings.get(track.id)
    if (!reading) return
    if (reading.open.size > 0) this.silence(track)
    reading.run = this.runOf(track)
  }

  silence(track: EngineTrack): void {
    this.outlet.silence(track)
    this.readings.get(track.id)?.open.clear()
  }

  /** Where curves moved program, volume or pan, they stand again where the track has them. */
  backToBase(): void {
    for (const track of this.now.setup.tracks)
      for (const event of baseEvents(track, this.contents.get(track.id)?.controllers ?? []))
        this.outlet.controller(track, event, null)
  }

  /** Everything was silenced: nothing is open any more. */
  letGo(): void {
    for (const reading of this.readings.values()) reading.open.clear()
  }
}

const addressOf = ({ kind, number }: ControllerEvent) => `${kind} ${number}`
const volumeNumber = 7
const panNumber = 10

/** Program, volume and pan of a track as events, where its curves move them: they hold until the first of those. */
function baseEvents({ base }: EngineTrack, controllers: readonly ControllerEvent[]): ControllerEvent[] {
  const at = { tick: 0, channel: 1 }
  const all: ControllerEvent[] = [
    { ...at, kind: 'controller', number: volumeNumber, value: Math.round(base.volume * 127) },
    { ...at, kind: 'controller', number: panNumber, value: Math.round(64 + base.pan * 63) },
    ...(base.program === null ? [] : [{ ...at, kind: 'program' as const, number: 0, value: base.program }]),
  ]
  return all.filter((event) =>
    controllers.some(({ kind, number }) => kind === event.kind && number === event.number),
  )
}
