import fc from 'fast-check'
import { Keeper } from './keeper'
import type { FromKeeper, SoundToKeep } from './keeperProtocol'

const sound = (portId: string, firstSample: number, length = 100): SoundToKeep => ({
  streamId: portId,
  portId,
  startMs: firstSample,
  sampleRate: 100,
  firstSample,
  samples: new Float32Array(length),
  places: new Int16Array(),
  confidences: new Uint8Array(),
})

/** A keeper whose disk answers when it is told to; every sample is a byte. */
function onADisk(mostBytes?: number) {
  const stored: string[] = []
  const told: FromKeeper[] = []
  let writing: { readonly name: string; readonly done: (error?: Error) => void } | null = null
  let retry: (() => void) | null = null
  const keeper = new Keeper(
    {
      encode: (samples) => {
        if (samples.length === 13) throw new Error('no encoder takes this')
        return new Uint8Array(samples.length)
      },
      put: (_project, { portId, firstSample }) =>
        new Promise((resolve, reject) => {
          if (writing) throw new Error('two at once')
          const name = `${portId} ${firstSample}`
          writing = {
            name,
            done(error) {
              writing = null
              if (error) reject(error)
              else {
                stored.push(name)
                resolve()
              }
            },
          }
        }),
      tell: (message) => told.push(message),
      later: (work) => {
        if (retry) throw new Error('asked again twice')
        retry = work
      },
    },
    mostBytes,
  )
  return {
    keeper,
    stored,
    told,
    lost: () => told.filter((message) => message.type === 'lost'),
    isWriting: () => writing !== null,
    async answer(error?: Error) {
      writing?.done(error)
      await Promise.resolve()
      await new Promise(setImmediate)
    },
    async askAgain() {
      const again = retry
      retry = null
      again?.()
      await new Promise(setImmediate)
    },
  }
}

describe('keeping sound', () => {
  test('on a full disk what three inputs played in a minute is held, and stored in order when there is room', async () => {
    const { keeper, stored, told, lost, answer, askAgain, isWriting } = onADisk()
    const wanted: string[] = []
    for (let second = 0; second < 60; second++)
      for (const portId of ['a', 'b', 'c']) {
        keeper.take('p', sound(portId, second * 100))
        wanted.push(`${portId} ${second * 100}`)
        await answer(new Error('full'))
        if (second % 7 === 0) await askAgain()
      }
    expect(told).toEqual([{ type: 'full', reason: 'Error: full' }])
    await answer(new Error('full'))
    await askAgain()
    while (isWriting()) await answer()
    expect(stored).toEqual(wanted)
    expect(lost()).toEqual([])
    expect(told.at(-1)).toEqual({ type: 'room' })
  })

  test('what is being written is not let go for want of room, and the next piece is stored too', async () => {
    const { keeper, stored, lost, answer, isWriting } = onADisk(250)
    for (let second = 0; second < 5; second++) keeper.take('p', sound('a', second * 100))
    while (isWriting()) await answer()
    expect(stored).toEqual(['a 0', 'a 300', 'a 400'])
    expect(lost()).toMatchObject([{ portId: 'a', seconds: 1 }, { seconds: 1 }])
  })

  test('under any schedule of sound, slow writes, failures and loads every piece is stored once or told to be lost', async () => {
    const move = fc.oneof(
      fc.record({
        kind: fc.constant('play' as const),
        port: fc.constantFrom('a', 'b'),
        length: fc.integer({ min: 1, max: 120 }),
      }),
      fc.constantFrom({ kind: 'write' as const }, { kind: 'fail' as const }, { kind: 'again' as const }),
    )
    await fc.assert(
      fc.asyncProperty(fc.array(move, { maxLength: 60 }), async (moves) => {
        const { keeper, stored, lost, answer, askAgain, isWriting } = onADisk(300)
        const played: string[] = []
        let playedSeconds = 0
        for (const [index, each] of moves.entries()) {
          if (each.kind === 'play') {
            keeper.take('p', sound(each.port, index, each.length))
            played.push(`${each.port} ${index}`)
            playedSeconds += each.length / 100
          } else if (each.kind === 'write') await answer()
          else if (each.kind === 'fail') await answer(new Error('full'))
          else await askAgain()
        }
        await askAgain()
        while (isWriting()) await answer()
        expect(new Set(stored).size).toBe(stored.length)
        expect(stored).toEqual(played.filter((name) => stored.includes(name)))
        expect(lost()).toHaveLength(played.length - stored.length)
        const storedSeconds = moves.reduce(
          (sum, each, index) =>
            each.kind === 'play' && stored.includes(`${each.port} ${index}`) ? sum + each.length / 100 : sum,
          0,
        )
        const lostSeconds = lost().reduce(
          (sum, message) => sum + ('seconds' in message ? message.seconds : 0),
          0,
        )
        expect(lostSeconds + storedSeconds).toBeCloseTo(playedSeconds, 6)
      }),
    )
  })
})
