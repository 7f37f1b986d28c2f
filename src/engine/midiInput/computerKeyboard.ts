import { epochAt } from '../clock'
import type { SourceEvent } from '../protocol'
import { takesText } from './takesText'

export const computerKeyboardPortId = 'computer-keyboard'

/** Physical keys (layout-independent codes) as semitones above the lowest: two rows, like a piano's. */
const semitoneOfCode: Readonly<Record<string, number>> = Object.fromEntries(
  [
    'KeyA',
    'KeyW',
    'KeyS',
    'KeyE',
    'KeyD',
    'KeyF',
    'KeyT',
    'KeyG',
    'KeyY',
    'KeyH',
    'KeyU',
    'KeyJ',
    'KeyK',
    'KeyO',
    'KeyL',
    'KeyP',
    'Semicolon',
  ].map((code, semitone) => [code, semitone]),
)

export interface KeyboardSettings {
  /** Key that the physical key A plays; moved by octaves. */
  readonly lowestKey: number
  readonly velocity: number
}

/**
 * The computer keyboard as a source: plays by physical key, never while a person types in a field or holds a
 * command key, and lets go of everything when the page loses the keyboard.
 */
export class ComputerKeyboard {
  private readonly down = new Map<string, number>()
  settings: KeyboardSettings = { lowestKey: 60, velocity: 84 }
  isEnabled = true

  constructor(
    private readonly target: Window,
    private readonly receive: (event: SourceEvent) => void,
    private readonly onSettings: (settings: KeyboardSettings) => void,
  ) {
    target.addEventListener('keydown', this.onKeyDown)
    target.addEventListener('keyup', this.onKeyUp)
    target.addEventListener('blur', this.releaseAll)
  }

  dispose(): void {
    this.releaseAll()
    this.target.removeEventListener('keydown', this.onKeyDown)
    this.target.removeEventListener('keyup', this.onKeyUp)
    this.target.removeEventListener('blur', this.releaseAll)
  }

  private readonly onKeyDown = (event: KeyboardEvent): void => {
    if (
      !this.isEnabled ||
      event.repeat ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      event.shiftKey ||
      takesText(event.target)
    )
      return
    if (event.code === 'KeyZ' || event.code === 'KeyX') {
      this.releaseAll()
      const lowestKey = Math.max(
        12,
        Math.min(96, this.settings.lowestKey + (event.code === 'KeyX' ? 12 : -12)),
      )
      this.settings = { ...this.settings, lowestKey }
      this.onSettings(this.settings)
      return
    }
    if (event.code === 'KeyC' || event.code === 'KeyV') {
      const velocity = Math.max(
        10,
        Math.min(120, this.settings.velocity + (event.code === 'KeyV' ? 10 : -10)),
      )
      this.settings = { ...this.settings, velocity }
      this.onSettings(this.settings)
      return
    }
    const semitone = semitoneOfCode[event.code]
    if (semitone === undefined || this.down.has(event.code)) return
    const key = this.settings.lowestKey + semitone
    if (key > 127) return
    event.preventDefault()
    this.down.set(event.code, key)
    this.send(event.timeStamp, 0x90, key, this.settings.velocity)
  }

  private readonly onKeyUp = (event: KeyboardEvent): void => {
    const key = this.down.get(event.code)
    if (key === undefined) return
    this.down.delete(event.code)
    this.send(event.timeStamp, 0x80, key, 64)
  }

  private readonly releaseAll = (): void => {
    for (const key of this.down.values()) this.send(performance.now(), 0x80, key, 64)
    this.down.clear()
  }

  private send(timeStamp: number, status: number, data1: number, data2: number): void {
    this.receive({
      portId: computerKeyboardPortId,
      timeMs: epochAt(timeStamp),
      status,
      data1,
      data2,
    })
  }
}
