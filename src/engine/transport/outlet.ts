import { addressedChannels } from '@/core/effects/address/channels'
import type { EffectEvent } from '@/core/effects/noteEffect'
import type { ControllerEvent } from '@/core/event/note'
import { controllerMessage } from '@/core/formats/projectToMidi'
import { channelMessageBytes } from '@/core/midi/message'
import type { Milliseconds } from '@/core/time/units'
import { type ClockSample, contextSecondsAt } from '../clock'
import type { EngineTrack } from '../protocol'
import { packCommands, type SynthMessage, type TimedCommand } from '../synth/commands'
import { HeldControls } from './heldControls'
import type { PortSender } from './portSender'

/** Where notes leave the engine: to the synthesiser, and to the ports and cables that tracks send to. */
export class Outlet {
  /** Ties audio time to the clock; null while there is no sound. */
  clock: ClockSample | null = null
  /** Tracks that would feed themselves: nothing of them is sent. */
  ringIds: ReadonlySet<string> = new Set()
  private commands: TimedCommand[] = []
  /** What each channel of the synthesiser holds away from rest. */
  private readonly controls = new Map<number, HeldControls>()

  constructor(
    private readonly toSynth: (message: SynthMessage) => void,
    private readonly sender: PortSender,
    private readonly nowMs: () => Milliseconds,
  ) {}

  /**
   * One message of a track to its instrument and to the port it sends to.
   *
   * @param atMs null: at once
   * @param ownChannel of a note that may have been dealt to a channel of its own
   */
  sound(
    track: EngineTrack,
    atMs: Milliseconds | null,
    status: number,
    data1: number,
    data2: number,
    ownChannel?: number,
  ): void {
    if (track.hasSound) {
      const atSeconds = atMs === null ? 0 : this.audioSeconds(atMs)
      if (atSeconds !== null) {
        this.commands.push({ atSeconds, synthChannel: track.synthChannel, status, data1, data2 })
        this.controlsOf(track.synthChannel).follow(status, data1, data2, 0)
      }
    }
    if (track.sendTo && !this.ringIds.has(track.id)) {
      const dealt =
        ownChannel !== undefined && addressedChannels(track.slots) !== null ? ownChannel : track.channel
      const nibble = (track.sendTo.channel ?? dealt) - 1
      const hasOneByte = status === 0xc0 || status === 0xd0
      const bytes = hasOneByte ? [status | nibble, data1] : [status | nibble, data1, data2]
      this.sender.add(track.id, track.sendTo.portId, atMs ?? this.nowMs(), bytes)
    }
  }

  /** What came out of effects. */
  event(track: EngineTrack, atMs: Milliseconds | null, event: EffectEvent): void {
    if (event.type === 'control') this.sound(track, atMs, 0xb0, event.number, event.value, event.channel)
    else if (event.type === 'on') this.sound(track, atMs, 0x90, event.key, event.velocity, event.channel)
    else this.sound(track, atMs, 0x80, event.of.key, 64, event.of.channel)
  }

  controller(track: EngineTrack, event: ControllerEvent, atMs: Milliseconds | null): void {
    const [status, data1, data2] = channelMessageBytes(controllerMessage(event, 1))
    this.sound(track, atMs, status!, data1!, data2 ?? 0)
  }

  /** A short stroke on a channel of the synthesiser that belongs to no track. */
  strike(synthChannel: number, atMs: Milliseconds, key: number, velocity: number): void {
    const atSeconds = this.audioSeconds(atMs)
    if (atSeconds === null) return
    this.commands.push({ atSeconds, synthChannel, status: 0x90, data1: key, data2: velocity })
    this.commands.push({ atSeconds: atSeconds + 0.05, synthChannel, status: 0x80, data1: key, data2: 0 })
  }

  /** Hands over what was gathered. */
  flush(): void {
    if (this.commands.length === 0) return
    this.toSynth({ type: 'commands', rows: packCommands(this.commands) })
    this.commands = []
  }

  /** Takes back what a track still has to sound, and ends what sounds. */
  silence(track: EngineTrack): void {
    this.flush()
    this.toSynth({ type: 'cancel', synthChannels: [track.synthChannel] })
    this.putBack(track.synthChannel)
    this.sender.silence(this.nowMs(), track.id)
  }

  /** @param isSoundOff whether what rings on is cut off too: it was asked for silence */
  silenceAll(isSoundOff: boolean): void {
    this.commands = []
    this.toSynth({ type: 'cancel' })
    for (const synthChannel of this.controls.keys()) this.putBack(synthChannel)
    this.sender.silence(this.nowMs(), undefined, isSoundOff)
  }

  /** Pedals up, bends to the middle: what was cancelled may have been the way back. */
  private putBack(synthChannel: number): void {
    for (const { bytes } of this.controls.get(synthChannel)?.putBack() ?? []) {
      const [status, data1, data2] = bytes
      this.commands.push({ atSeconds: 0, synthChannel, status, data1, data2 })
    }
    this.flush()
  }

  private controlsOf(synthChannel: number): HeldControls {
    let controls = this.controls.get(synthChannel)
    if (!controls) {
      controls = new HeldControls(true)
      this.controls.set(synthChannel, controls)
    }
    return controls
  }

  /** Audio time at which something must begin to be heard at a moment; null while there is no sound. */
  private audioSeconds(timeMs: Milliseconds): number | null {
    if (!this.clock) return null
    return contextSecondsAt(this.clock, timeMs)
  }
}
