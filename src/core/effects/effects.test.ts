import fc from 'fast-check'
import { Chord, Scale } from 'tonal'
import type { Note } from '../event/note'
import { MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import { anySettings } from './anySettings.testing'
import {
  type EffectKind,
  type EffectSlot,
  effectKinds,
  effectOf,
  effectSlotSchema,
  isByChance,
  newSlot,
} from './catalogue'
import { Chain, mostNotesToTheQuarter } from './chain'
import { ChainRun, noteEvents } from './chainRun'
import type { EffectEvent, EffectNoteOn, MusicalContext } from './noteEffect'
import { printChain } from './print'
import { KeyScale, scaleNames, tonics } from './settings'

const context: MusicalContext = {
  tempoMap: new TempoMap([
    { tick: 0, tempoBpm: 110 },
    { tick: 60_000, tempoBpm: 87 },
  ]),
  meterMap: new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]),
}

const slotArbitrary = (kind: EffectKind): fc.Arbitrary<EffectSlot> =>
  anySettings(effectOf(kind).fields).chain((settings) =>
    fc.nat(1_000_000).map((seed) => ({ ...newSlot(kind, `${kind}-slot`, settings as never), seed })),
  )

const notesArbitrary = fc
  .array(
    fc.record({
      onsetTicks: fc.integer({ min: 0, max: 60_000 }),
      durationTicks: fc.integer({ min: 1, max: 30_000 }),
      key: fc.integer({ min: 20, max: 100 }),
      velocity: fc.integer({ min: 1, max: 127 }),
      channel: fc.integer({ min: 1, max: 3 }),
    }),
    { maxLength: 20 },
  )
  .map((list) => {
    // As a keyboard gives them: a key that is down cannot go down again.
    const busyUntil = new Map<string, number>()
    return list
      .sort((a, b) => a.onsetTicks - b.onsetTicks)
      .flatMap((each, index): Note[] => {
        const address = `${each.channel} ${each.key}`
        if ((busyUntil.get(address) ?? -1) >= each.onsetTicks) return []
        busyUntil.set(address, each.onsetTicks + each.durationTicks)
        return [{ ...each, id: index + 1, releaseVelocity: 64, origin: { kind: 'drawn' } }]
      })
  })

const endTicks = 3_000_000

function runInWindows(events: readonly EffectEvent[], cuts: readonly number[], slots: readonly EffectSlot[]) {
  const out: EffectEvent[] = []
  const run = new ChainRun(events, { slots, changes: [] }, context, (event) => out.push(event))
  for (const cut of [...cuts].sort((a, b) => a - b)) run.advance(cut)
  run.advance(endTicks)
  run.end(endTicks)
  return out
}

function chord(keys: readonly number[], onsetTicks: number, durationTicks: number): Note[] {
  return keys.map((key, index) => ({
    id: onsetTicks + index + 1,
    onsetTicks,
    durationTicks,
    key,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
  }))
}

const print = (notes: readonly Note[], ...slots: EffectSlot[]) =>
  printChain(notes, { slots, changes: [] }, context, 1000)
const keysOf = (notes: readonly Note[]) => notes.map((note) => note.key)

describe.each(effectKinds)('%s', (kind) => {
  const cuts = fc.array(fc.integer({ min: 1, max: 200_000 }), { maxLength: 40 })

  test('cutting time into any windows gives the same output', () => {
    fc.assert(
      fc.property(notesArbitrary, slotArbitrary(kind), cuts, (notes, slot, at) => {
        const events = noteEvents(notes)
        expect(runInWindows(events, at, [slot])).toEqual(runInWindows(events, [], [slot]))
      }),
      { numRuns: 60 },
    )
  })

  test('every note that begins ends, in order of time, and no key sounds twice at once', () => {
    fc.assert(
      fc.property(notesArbitrary, slotArbitrary(kind), (notes, slot) => {
        const sounding = new Map<string, EffectNoteOn>()
        let lastTicks = 0
        for (const event of runInWindows(noteEvents(notes), [], [slot])) {
          expect(event.tick).toBeGreaterThanOrEqual(lastTicks)
          lastTicks = event.tick
          if (event.type === 'control') continue
          const on = event.type === 'on' ? event : event.of
          const address = `${on.channel} ${on.key}`
          if (event.type === 'on') {
            expect(sounding.has(address)).toBe(false)
            expect(event.velocity).toBeGreaterThanOrEqual(1)
            expect(event.velocity).toBeLessThanOrEqual(127)
            expect(event.key).toBeGreaterThanOrEqual(0)
            expect(event.key).toBeLessThanOrEqual(127)
            expect(event.channel).toBeLessThanOrEqual(16)
            sounding.set(address, event)
          } else {
            expect(sounding.get(address)).toBe(event.of)
            expect(event.tick).toBeGreaterThan(on.tick)
            sounding.delete(address)
          }
        }
        expect(sounding.size).toBe(0)
      }),
      { numRuns: 60 },
    )
  })

  test('a change later in the piece changes nothing earlier', () => {
    const edge = 100_000
    fc.assert(
      fc.property(notesArbitrary, notesArbitrary, slotArbitrary(kind), (before, after, slot) => {
        const later = after.map((note) => ({
          ...note,
          id: note.id + 1000,
          onsetTicks: note.onsetTicks + edge,
        }))
        // What goes on after the last key is up goes on only to the end of its bar: a far note keeps that away.
        const far = chord([10], 1_000_000, 100)
        const until = (events: readonly EffectEvent[]) =>
          events
            .filter((event) => event.tick < edge)
            .map((event) => (event.type === 'off' ? { ...event, of: event.of.key } : event))
        const whole = runInWindows(noteEvents([...before, ...later, ...far]), [], [slot])
        expect(until(whole)).toEqual(until(runInWindows(noteEvents([...before, ...far]), [], [slot])))
      }),
      { numRuns: 40 },
    )
  })

  test('stored settings are read back as they are, and others are refused', () => {
    fc.assert(
      fc.property(slotArbitrary(kind), (slot) => {
        expect(effectSlotSchema.parse(JSON.parse(JSON.stringify(slot)))).toEqual(slot)
      }),
      { numRuns: 20 },
    )
    const [name, field] = Object.entries(effectOf(kind).fields)[0]!
    const wrong = field.type === 'switch' ? 'yes' : field.type === 'choice' ? 'nonsense' : 1e9
    const result = effectSlotSchema.safeParse({ ...newSlot(kind, 'x'), settings: { [name]: wrong } })
    expect(result.success).toBe(false)
    expect(result.error!.issues[0]!.path).toEqual(['settings', name])
  })

  test('presets are settings it takes', () => {
    for (const preset of Object.values(effectOf(kind).presets))
      expect(effectSlotSchema.safeParse(newSlot(kind, 'x', preset as never)).success).toBe(true)
  })
})

test('where an effect is not by chance, its seed makes no difference', () => {
  const anySlot = fc.constantFrom(...effectKinds).chain(slotArbitrary)
  fc.assert(
    fc.property(notesArbitrary, anySlot, (notes, slot) => {
      fc.pre(!isByChance(slot))
      expect(print(notes, { ...slot, seed: 2 })).toEqual(print(notes, { ...slot, seed: 3 }))
    }),
  )
  const moving = newSlot('transpose', 't')
  expect(isByChance(moving)).toBe(false)
  const movement = { setting: 'octaves', periodQuarters: 1, from: 0, to: 2, points: [0, 100] } as const
  expect(isByChance({ ...moving, movements: [{ ...movement, points: [0], shape: 'random and hold' }] })).toBe(
    true,
  )
})

describe('chains', () => {
  const chainArbitrary = fc
    .array(fc.constantFrom(...effectKinds), { minLength: 1, maxLength: 5 })
    .chain((kinds) =>
      fc.tuple(
        ...kinds.map((kind, index) => slotArbitrary(kind).map((slot) => ({ ...slot, id: `s${index}` }))),
      ),
    )

  test('any chain of up to five: the same in any windows, the same again, balanced', () => {
    fc.assert(
      fc.property(
        notesArbitrary,
        chainArbitrary,
        fc.array(fc.integer({ min: 1, max: 200_000 }), { maxLength: 20 }),
        (notes, slots, cuts) => {
          const events = noteEvents(notes)
          const whole = runInWindows(events, [], slots)
          expect(runInWindows(events, cuts, slots)).toEqual(whole)
          const ons = whole.filter((event) => event.type === 'on').length
          expect(whole.filter((event) => event.type === 'off')).toHaveLength(ons)
        },
      ),
      { numRuns: 60 },
    )
  })

  test('fed note by note as it is played, the output is that of printing', () => {
    fc.assert(
      fc.property(
        notesArbitrary,
        chainArbitrary,
        fc.integer({ min: 20, max: 3000 }),
        (notes, slots, every) => {
          const events = noteEvents(notes)
          const live: EffectEvent[] = []
          const chain = new Chain(slots, context, (event) => live.push(event))
          let nowTicks = 0
          for (const event of events) {
            while (nowTicks + every < event.tick) {
              nowTicks += every
              chain.advance(nowTicks)
            }
            chain.receive(event)
          }
          const last = events.at(-1)?.tick ?? 0
          const printed = runInWindows(events, [], slots).filter((event) => event.tick < last)
          expect(live.filter((event) => event.tick < last)).toEqual(printed)
        },
      ),
      { numRuns: 60 },
    )
  })

  test('repeats of repeats are bounded, and what was left out is counted', () => {
    const slots = [1, 2, 3, 4].map((index) =>
      newSlot('repeat', `r${index}`, { count: 16, spacing: '1/32', fade: 100, pitchStep: 1 }),
    )
    const result = print(chord([40, 41, 42, 43, 44], 0, 40_000), ...slots)
    expect(result.leftOut).toBeGreaterThan(0)
    const perQuarter = new Map<number, number>()
    for (const note of result.notes) {
      const quarter = Math.floor(note.onsetTicks / 10_080)
      perQuarter.set(quarter, (perQuarter.get(quarter) ?? 0) + 1)
    }
    expect(Math.max(...perQuarter.values())).toBeLessThanOrEqual(mostNotesToTheQuarter)
  })

  test('a change while it plays holds from its position on', () => {
    const transposed = (octaves: number) => [newSlot('transpose', 't', { octaves })]
    const notes = [0, 10_080, 20_160].flatMap((onset) => chord([60], onset, 5000))
    const plan = { slots: transposed(0), changes: [{ tick: 10_080, slots: transposed(1) }] }
    expect(keysOf(printChain(notes, plan, context, 1).notes)).toEqual([60, 72, 72])
  })

  test('only the soloed effect is at work; one that is off is not', () => {
    const up = newSlot('transpose', 'a', { octaves: 1 })
    const fifth = newSlot('transpose', 'b', { semitones: 7 })
    const [one] = [chord([60], 0, 100)]
    expect(keysOf(print(one, up, fifth).notes)).toEqual([79])
    expect(keysOf(print(one, up, { ...fifth, isSolo: true }).notes)).toEqual([67])
    expect(keysOf(print(one, up, { ...fifth, isOn: false }).notes)).toEqual([72])
  })

  test('a setting moves with the bars', () => {
    const slot: EffectSlot = {
      ...newSlot('transpose', 'a'),
      movements: [
        { setting: 'octaves', shape: 'steps', periodQuarters: 2, from: 0, to: 1, points: [0, 100] },
      ],
    }
    const notes = [0, 10_080, 20_160, 30_240].flatMap((onset) => chord([60], onset, 5000))
    expect(keysOf(print(notes, slot).notes)).toEqual([60, 72, 60, 72])
  })

  test('printed notes know the note they came from', () => {
    const source = chord([60, 64], 0, 20_160)
    for (const { origin, key } of print(source, newSlot('arpeggio', 'a')).notes) {
      if (origin.kind !== 'printed') throw new Error('A printed note has a source')
      expect(source.find((candidate) => candidate.id === origin.fromNoteId)!.key).toBe(key)
    }
  })
})

describe('what single effects do', () => {
  test('chords in key on all degrees, in all keys and several scales, as tonal builds them', () => {
    const names: Record<string, string> = { 'F♯': 'F#', 'D♭': 'Db', 'E♭': 'Eb', 'A♭': 'Ab', 'B♭': 'Bb' }
    const chroma = (note: string) =>
      new KeyScale('C', 'chromatic').keyOf(0) + ['C', 'D', 'E', 'F', 'G', 'A', 'B'].indexOf(note[0]!)
    expect(chroma('C')).toBe(0)
    for (const tonic of tonics)
      for (const scale of ['major', 'minor', 'harmonic minor', 'dorian', 'lydian'] as const) {
        const notes = Scale.get(`${names[tonic] ?? tonic}4 ${scale}`).notes
        for (let degree = 0; degree < 7; degree++) {
          const wanted = [0, 2, 4, 6].map((step) =>
            midiOf(notes[(degree + step) % 7]!, degree + step >= 7 ? 1 : 0),
          )
          const [root] = wanted
          const result = print(
            chord([root!], 0, 100),
            newSlot('chordInKey', 'c', { tonic, scale, steps: [2, 4, 6] }),
          )
          expect(keysOf(result.notes).sort((a, b) => a - b)).toEqual(wanted)
        }
      }
  })

  test('tonal names the triads of C major that chord in key builds', () => {
    const names = [60, 62, 64, 65, 67, 69, 71].map((key) => {
      const keys = keysOf(print(chord([key], 0, 100), newSlot('chordInKey', 'c')).notes).sort((a, b) => a - b)
      return Chord.detect(keys.map((each) => tonics[each % 12]!))[0]
    })
    expect(names).toEqual(['CM', 'Dm', 'Em', 'FM', 'GM', 'Am', 'Bdim'])
  })

  test('every scale begins on its tonic and rises', () => {
    for (const scale of scaleNames) {
      const keys = new KeyScale('D', scale)
      expect(keys.keyOf(0)).toBe(2)
      for (let degree = 0; degree < 20; degree++) {
        expect(keys.keyOf(degree + 1)).toBeGreaterThan(keys.keyOf(degree))
        expect(keys.degreeAtOrBelow(keys.keyOf(degree))).toBe(degree)
      }
    }
  })

  test('arpeggio: on the grid, whatever the order the keys came down in', () => {
    const { notes } = print(chord([67, 60, 64], 0, 40_320), newSlot('arpeggio', 'a', { rate: '1/8' }))
    expect(keysOf(notes).slice(0, 4)).toEqual([60, 64, 67, 60])
    // The first step waits for the chord to come together; all others are on eighths.
    expect(notes.slice(1, 4).map((note) => note.onsetTicks)).toEqual([5040, 10_080, 15_120])
  })

  test('arpeggio: orders and octaves', () => {
    const keys = (settings: Parameters<typeof newSlot<'arpeggio'>>[2], count: number) =>
      keysOf(print(chord([60, 64, 67], 0, 80_640), newSlot('arpeggio', 'a', settings)).notes).slice(0, count)
    expect(keys({ order: 'down' }, 4)).toEqual([67, 64, 60, 67])
    expect(keys({ order: 'up and down' }, 6)).toEqual([60, 64, 67, 64, 60, 64])
    expect(keys({ order: 'inwards' }, 4)).toEqual([60, 67, 64, 60])
    expect(keys({ octaves: 2 }, 7)).toEqual([60, 64, 67, 72, 76, 79, 60])
    expect(keys({ order: 'all together', rate: '1/4' }, 6)).toEqual([60, 64, 67, 60, 64, 67])
  })

  test('arpeggio: a chord let go at once still sounds once; one that is held on ends with the bar', () => {
    expect(print(chord([60], 1000, 50), newSlot('arpeggio', 'a')).notes).toHaveLength(1)
    const on = print(chord([60, 64], 0, 10_000), newSlot('arpeggio', 'a', { holds: true, rate: '1/8' })).notes
    expect(on).toHaveLength(8)
    expect(Math.max(...on.map((note) => note.onsetTicks + note.durationTicks))).toBeLessThanOrEqual(40_320)
  })

  test('repeat: so many times, apart, fading, in steps of pitch', () => {
    const { notes } = print(
      chord([60], 0, 2000),
      newSlot('repeat', 'r', { count: 2, spacing: '1/8', fade: 50, pitchStep: 3 }),
    )
    expect(
      notes.map(({ onsetTicks, durationTicks, key, velocity }) => [onsetTicks, durationTicks, key, velocity]),
    ).toEqual([
      [0, 2000, 60, 80],
      [5040, 2000, 63, 40],
      [10_080, 2000, 66, 20],
    ])
  })

  test('deal voices: first to the first channel, the rest to the last; a single line stays on the first', () => {
    const dealt = print(
      chord([72, 67, 64, 60, 55], 0, 5000),
      newSlot('dealVoices', 'd', { voices: 3, first: 2, order: 'the highest' }),
    )
    expect(dealt.notes.map(({ key, channel }) => [key, channel]).sort((a, b) => b[0]! - a[0]!)).toEqual([
      [72, 2],
      [67, 3],
      [64, 4],
      [60, 4],
      [55, 4],
    ])
    const line = [0, 6000, 12_000].flatMap((onset) => chord([60 + onset / 6000], onset, 5000))
    expect(print(line, newSlot('dealVoices', 'd', { voices: 5 })).notes.map((note) => note.channel)).toEqual([
      1, 1, 1,
    ])
  })

  test('swing at two thirds puts eighths on triplets', () => {
    const line = [0, 5040, 10_080, 15_120].flatMap((onset) => chord([60], onset, 2000))
    const { notes } = print(line, newSlot('swing', 's', { grid: '1/8', amount: 67 }))
    expect(notes.map((note) => note.onsetTicks)).toEqual([0, 6754, 10_080, 16_834])
  })

  test('wait for the grid: early notes wait, late ones sound at once', () => {
    const { notes } = print([...chord([60], 2300, 500), ...chord([62], 2700, 500)], newSlot('toGrid', 'g'))
    expect(notes.map((note) => note.onsetTicks)).toEqual([2520, 2700])
  })

  test('the same seed throws the same, another one differently; an edit in bar 9 changes nothing in bar 3', () => {
    const line = Array.from({ length: 40 }, (_, index) => chord([60], index * 5040, 2000)).flat()
    const thrown = (seed: number, notes = line) =>
      keysOf(print(notes, { ...newSlot('probability', 'p'), seed }).notes).length
    expect(thrown(1)).toBe(thrown(1))
    expect(new Set([1, 2, 3, 4, 5, 6].map((seed) => thrown(seed))).size).toBeGreaterThan(1)
  })

  test('legato joins a line; fixed length cuts it', () => {
    const line = [0, 10_080, 20_160].flatMap((onset) => chord([60 + onset / 10_080], onset, 2000))
    expect(
      print(line, newSlot('legato', 'l', { longest: '1/4' })).notes.map((note) => note.durationTicks),
    ).toEqual([10_080, 10_080, 10_080])
    expect(
      print(line, newSlot('fixedLength', 'l', { value: '1/8', gate: 50 })).notes.map(
        (note) => note.durationTicks,
      ),
    ).toEqual([2520, 2520, 2520])
  })

  test('a moving controller goes with the bars while a note sounds', () => {
    const { controllers } = print(
      chord([60], 0, 40_320),
      newSlot('controllerMovement', 'm', { shape: 'rising', low: 0, high: 127, period: '1/1' }),
    )
    expect(controllers[0]).toMatchObject({ tick: 0, number: 11, value: 0 })
    const values = controllers.map((event) => event.value)
    expect([...values].sort((a, b) => a - b)).toEqual(values)
    expect(controllers.at(-1)!.value).toBeGreaterThan(120)
    expect(controllers.at(-1)!.tick).toBeLessThanOrEqual(40_320)
  })
})

function midiOf(name: string, octavesUp: number): number {
  const [, letter, accidentals, octave] = /^([A-G])([#b]*)(\d)$/.exec(name)!
  const step = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[letter!]!
  const shift = accidentals!.split('#').length - accidentals!.split('b').length
  return 12 * (Number(octave) + 1 + octavesUp) + step + shift
}
