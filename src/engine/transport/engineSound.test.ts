import { newSlot } from '@/core/effects/catalogue'
import { seedOfTurn, slotsOfTurn } from '@/core/effects/turns'
import type { ControllerEvent } from '@/core/event/note'
import { packNotes } from '@/core/event/noteColumns'
import { engineWorkshop, note, ons } from './engineWorkshop.testing'

const bar = 40_320
const event = (
  tick: number,
  kind: ControllerEvent['kind'],
  number: number,
  value: number,
): ControllerEvent => ({
  tick,
  channel: 1,
  kind,
  number,
  value,
})

/** Everything of one track but its notes, in the order it was handed over. */
function controlsOf(controllers: readonly ControllerEvent[], fromTicks = 0) {
  const { engine, synth, run } = engineWorkshop([{ base: { program: 5, volume: 0.5, pan: -1 } }])
  const columns = packNotes([note(1, 0, 20_000, 60), note(2, bar, 20_000, 62)])
  engine.receive({ type: 'trackContent', trackId: 't0', notes: columns, controllers })
  engine.receive({ type: 'play', fromTicks, untilTicks: bar + 20_000, loop: null })
  run(4000)
  return synth
    .filter(({ status }) => status !== 0x90 && status !== 0x80)
    .map(({ status, key, velocity }) => [status, key, velocity])
}

test('a program inside a track is played, and the track begins and ends with its own', () => {
  expect(controlsOf([event(bar, 'program', 0, 40)])).toEqual([
    [0xc0, 5, 0],
    [0xc0, 40, 0],
    [0xc0, 5, 0],
  ])
  // From behind the change it is there at once.
  expect(controlsOf([event(bar - 10, 'program', 0, 40)], bar)[0]).toEqual([0xc0, 40, 0])
})

test('volume and pan play as curves; without one they are never sent, so that the level stays as it is set', () => {
  const curve = [
    event(0, 'controller', 7, 100),
    event(20_000, 'controller', 7, 20),
    event(30_000, 'controller', 10, 127),
  ]
  expect(controlsOf(curve)).toEqual([
    [0xb0, 7, 64],
    [0xb0, 10, 1],
    [0xb0, 7, 100],
    [0xb0, 7, 20],
    [0xb0, 10, 127],
    [0xb0, 7, 64],
    [0xb0, 10, 1],
  ])
  expect(
    controlsOf([event(0, 'controller', 1, 9)]).filter(([, number]) => number === 7 || number === 10),
  ).toEqual([])
})

describe('chance in the turns of a loop', () => {
  const slot = { ...newSlot('probability', 'p', { share: 50 }), isSeedKept: false, seed: 11 }
  const scale = Array.from({ length: 16 }, (_, index) => note(index + 1, index * 2520, 1500, 60 + index))

  /** The keys of each turn of a bar that loops four times. */
  function turns(isThrownEachTurn: boolean, isSeedKept = false) {
    const { engine, synth, window, content, run } = engineWorkshop([{ slots: [{ ...slot, isSeedKept }] }], {
      isThrownEachTurn,
    })
    content('t0', scale)
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: { startTicks: 0, endTicks: bar } })
    run(8400)
    const playing = window.find((message) => message.type === 'transport')
    if (playing?.type !== 'transport' || playing.transport.state !== 'playing')
      throw new Error('It should play')
    const startSeconds = (playing.transport.startedAtMs - 5_000_000) / 1000
    const all: number[][] = [[], [], [], []]
    for (const { atSeconds, key } of ons(synth))
      all[Math.floor((atSeconds - startSeconds + 0.01) / 2)]?.push(key)
    return all.map((keys) => keys.join())
  }

  test('is the same in each, when that is wished; another in each otherwise, and the first is the throw itself', () => {
    const same = turns(false)
    expect(new Set(same).size).toBe(1)
    const each = turns(true)
    expect(each[0]).toBe(same[0])
    expect(new Set(each).size).toBe(4)
    expect(turns(true)).toEqual(each)
    expect(new Set(turns(true, true)).size).toBe(1)
  })

  test('the throw of a turn can be kept: with it, every turn is as that one was', () => {
    const [slots] = [slotsOfTurn([slot], 2)]
    expect(slots[0]!.seed).toBe(seedOfTurn(11, 2))
    expect(slotsOfTurn([slot], 0)[0]).toBe(slot)
    const kept = [{ ...slot, isSeedKept: true }]
    expect(slotsOfTurn(kept, 3)).toBe(kept)
  })
})
