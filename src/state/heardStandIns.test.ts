import { soundingPlayers, type TimedTone } from '@/core/demo/soundingPlayers'
import { emptyProject } from '@/core/project/create'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import type { EarPort } from '@/engine/soundInput/earPort'
import type { SoundingStandIn } from '@/engine/soundInput/soundingStandIn'
import { createHeardStandIns } from './heardStandIns'
import { createProjectStore } from './projectStore'

const guitar = soundingPlayers[0]!

interface Performance {
  readonly startMs: number
  readonly tones: readonly TimedTone[]
}

/** A stand-in whose tones are taken down, at a port. */
function seat(portId: string, failure: string | null = null) {
  const performances: Performance[] = []
  let stops = 0
  const standIn = {
    player: guitar,
    perform: async (startMs: number, tones: readonly TimedTone[]) => {
      if (failure) throw new Error(failure)
      performances.push({ startMs, tones })
    },
    stop: () => stops++,
  } as unknown as SoundingStandIn
  const port = { id: portId, name: 'Tove', contextSecondsAt: () => null } as unknown as EarPort
  return { seat: { standIn, port }, performances, stops: () => stops }
}

function withSeats(...seats: readonly ReturnType<typeof seat>[]) {
  const problems: string[] = []
  const store = createProjectStore({
    ...emptyProject('p', 'Piece', 0),
    tempos: [{ tick: 0, tempoBpm: 60 }],
  })
  const standIns = createHeardStandIns(
    store,
    () => seats.map((each) => each.seat),
    (text) => problems.push(text),
  )
  return { standIns, store, problems }
}

const keysOf = ({ tones }: Performance) => tones.map(({ tone }) => tone.key)

describe('stand-ins who are heard', () => {
  test('play their part from where the others begin, each at its own input', () => {
    const [one, two] = [seat('sound:1'), seat('sound:2')]
    const { standIns } = withSeats(one, two)
    standIns.perform(5000, 0)
    for (const { performances } of [one, two]) {
      expect(performances.map(({ startMs }) => startMs)).toEqual([5000])
      expect(keysOf(performances[0]!)).toEqual(guitar.part.map(({ key }) => key))
    }
  })

  test('play at the speed that is recorded at', () => {
    const lastMs = (speedPercent: number) => {
      const one = seat('sound:1')
      const { standIns, store } = withSeats(one)
      store.getState().apply('speed', (project) => ({
        ...project,
        recording: { ...project.recording, speedPercent },
      }))
      standIns.perform(0, 0)
      return one.performances[0]!.tones.at(-1)!.timeMs
    }
    expect(lastMs(50) / lastMs(100)).toBeCloseTo(2, 1)
  })

  test('play a loop again and again, each time a little otherwise', () => {
    const one = seat('sound:1')
    const loop = { startTicks: 0, endTicks: 4 * TICKS_PER_QUARTER }
    withSeats(one).standIns.perform(0, 0, loop)
    const { tones } = one.performances[0]!
    const within = guitar.part.filter(({ onsetTicks }) => onsetTicks < loop.endTicks)
    const pass = (index: number) => tones.slice(index * within.length, (index + 1) * within.length)
    expect(pass(1).map(({ tone }) => tone.key)).toEqual(within.map(({ key }) => key))
    expect(pass(1).map(({ timeMs }) => Math.round((timeMs - 4000) / 250))).toEqual(
      pass(0).map(({ timeMs }) => Math.round(timeMs / 250)),
    )
    expect(pass(1).map(({ timeMs }) => timeMs - 4000)).not.toEqual(pass(0).map(({ timeMs }) => timeMs))
  })

  test('along the click one key, and only who sits at that port', () => {
    const [one, two] = [seat('sound:1'), seat('sound:2')]
    const { standIns } = withSeats(one, two)
    standIns.strikeAlong('sound:2', [1000, 1500, 2000])
    expect(one.performances).toEqual([])
    expect(keysOf(two.performances[0]!)).toEqual(Array(3).fill(guitar.part[0]!.key))
    expect(two.performances[0]!.startMs).toBe(1000)
    standIns.strikeAlong('sound:3', [1000, 1500])
    standIns.strikeAlong('sound:1', [1000])
    expect(one.performances).toEqual([])
  })

  test('all stop at once; one who cannot play is named, and the others play', async () => {
    const [broken, whole] = [seat('sound:1', 'no model'), seat('sound:2')]
    const { standIns, problems } = withSeats(broken, whole)
    standIns.perform(0, 0)
    await Promise.resolve()
    await Promise.resolve()
    expect(problems).toEqual(['Tove cannot play: no model'])
    expect(whole.performances).toHaveLength(1)
    standIns.stopPerforming()
    expect([broken.stops(), whole.stops()]).toEqual([1, 1])
  })
})
