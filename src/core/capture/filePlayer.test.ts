import { createDemo } from '../demo/harbourEvening'
import { projectToMidi } from '../formats/projectToMidi'
import { readMidiFile } from '../midi/standardMidiFile/read'
import { writeMidiFile } from '../midi/standardMidiFile/write'
import { soundingNotes } from '../project/create'
import { TempoMap } from '../time/tempoMap'
import { filePlayerParts, performFile } from './filePlayer'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const file = readMidiFile(writeMidiFile(projectToMidi(demo, demo.tracks.slice(0, 3), 960)))
const parts = filePlayerParts(file)

describe('a file that plays', () => {
  test('has a part for each track with notes, each on a channel of its own', () => {
    expect(parts.map(({ name, channel }) => [name, channel])).toEqual([
      ['Orla’s flute', 1],
      ['Benno’s piano', 2],
      ['Sefa’s harp', 3],
    ])
    expect(parts[0]!.instrument).toEqual({ kind: 'program', program: 73 })
  })

  test('plays every note at its place, at the tempo of the project', () => {
    const messages = performFile(parts, new TempoMap([{ tick: 0, tempoBpm: 60 }]), 0)
    const strokes = messages.filter(({ bytes }) => (bytes[0] & 0xf0) === 0x90)
    const written = demo.tracks.flatMap((track) => soundingNotes(track))
    expect(strokes).toHaveLength(written.length)
    const first = soundingNotes(demo.tracks[0]!)[1]!
    const flute = strokes.filter(({ bytes }) => bytes[0] === 0x90)
    expect(flute[1]!.timeMs).toBeCloseTo((first.onsetTicks / 10_080) * 1000, -1)
    expect(
      messages.every((message, index) => index === 0 || message.timeMs >= messages[index - 1]!.timeMs),
    ).toBe(true)
  })

  test('from the middle: no release without its stroke, controllers in their last state', () => {
    const messages = performFile(parts, new TempoMap(demo.tempos), 8 * 40_320)
    const down = new Map<string, number>()
    for (const { bytes } of messages) {
      const address = `${bytes[0] & 0x0f} ${bytes[1]}`
      if ((bytes[0] & 0xf0) === 0x90) down.set(address, (down.get(address) ?? 0) + 1)
      if ((bytes[0] & 0xf0) === 0x80) {
        expect(down.get(address)).toBeGreaterThan(0)
        down.set(address, down.get(address)! - 1)
      }
    }
    expect([...down.values()].every((count) => count === 0)).toBe(true)
    expect(messages.some(({ timeMs, bytes }) => timeMs === 0 && bytes[0] === 0xc0 && bytes[1] === 73)).toBe(
      true,
    )
  })
})
