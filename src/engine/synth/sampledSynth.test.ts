import { readFileSync } from 'node:fs'
import { SampledSynth } from './sampledSynth'

const rate = 44_100

function bank(name: string): ArrayBuffer {
  const file = readFileSync(`public/instruments/${name}.sf3`)
  return file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer
}

async function drumSynth() {
  const synth = new SampledSynth(rate)
  await synth.ready()
  synth.addBank('drums', bank('drums'))
  synth.setInstrument(1, 'drums')
  synth.setLevel(1, 1, 0)
  return synth
}

function render(synth: SampledSynth, seconds: number): Float32Array {
  const all = new Float32Array(Math.ceil((seconds * rate) / 128) * 128)
  const right = new Float32Array(128)
  for (let frame = 0; frame < all.length; frame += 128) {
    right.fill(0)
    synth.render(all.subarray(frame, frame + 128), right, frame / rate)
  }
  return all
}

const firstSound = (audio: Float32Array, from: number, threshold = 0.002) => {
  for (let frame = from; frame < audio.length; frame++) if (Math.abs(audio[frame]!) > threshold) return frame
  return -1
}

describe('sampled instruments', () => {
  test('at rest nothing is rendered; a note after it begins where it should, and sounds as it did before', async () => {
    const synth = await drumSynth()
    const note = { synthChannel: 1, status: 0x90, data1: 37, data2: 127 }
    synth.schedule({ atSeconds: 0.5, ...note })
    expect(synth.isAtRest).toBe(false)
    const first = render(synth, 6)
    expect(synth.isAtRest).toBe(true)
    expect(render(synth, 0.1).every((sample) => sample === 0)).toBe(true)
    synth.schedule({ atSeconds: 0.5, ...note })
    expect(synth.isAtRest).toBe(false)
    const again = render(synth, 1)
    expect(firstSound(again, 0)).toBe(firstSound(first, 0))
  })

  test('the fortieth track sounds as loud as the first', async () => {
    const peakOf = async (synthChannel: number) => {
      const synth = await drumSynth()
      synth.setInstrument(synthChannel, 'drums')
      synth.setLevel(synthChannel, 1, 0)
      synth.schedule({ atSeconds: 0.05, synthChannel, status: 0x90, data1: 37, data2: 127 })
      return Math.max(...render(synth, 0.15).map(Math.abs))
    }
    const first = await peakOf(1)
    expect(first).toBeGreaterThan(0.1)
    for (const channel of [16, 40]) expect((await peakOf(channel)) / first).toBeCloseTo(1, 1)
  })

  test('whatever instruments are fetched later, each channel sounds as it did before', async () => {
    const soundOf = async (others: readonly number[]) => {
      const synth = new SampledSynth(rate)
      await synth.ready()
      for (const [index, program] of [73, ...others].entries()) {
        synth.setInstrument(index + 1, program)
        synth.setLevel(index + 1, 1, 0)
        const id = `program-${String(program).padStart(3, '0')}`
        synth.addBank(id, bank(id))
      }
      synth.schedule({ atSeconds: 0.1, synthChannel: 1, status: 0x90, data1: 72, data2: 100 })
      return render(synth, 0.6)
    }
    const alone = await soundOf([])
    expect(Math.max(...alone.map(Math.abs))).toBeGreaterThan(0.01)
    for (const others of [[0], [46, 0], [0, 46, 73]]) expect(await soundOf(others)).toEqual(alone)
  })

  test('sound on the very sample they are scheduled for, wherever it falls in a block', async () => {
    const synth = await drumSynth()
    const starts = [0, 1, 17, 64, 127, 300].map((offset, index) => (index + 1) * 22_016 + offset)
    for (const start of starts)
      synth.schedule({ atSeconds: start / rate, synthChannel: 1, status: 0x90, data1: 37, data2: 127 })
    const audio = render(synth, 3.4)
    const latencies = starts.map((start) => firstSound(audio, start - 100, 0.01) - start)
    // The sample's own attack takes the same time each time, to a fifth of a millisecond.
    expect(Math.max(...latencies) - Math.min(...latencies)).toBeLessThanOrEqual(rate / 5000)
    expect(Math.min(...latencies)).toBeGreaterThanOrEqual(0)
    expect(Math.max(...latencies) / rate).toBeLessThan(0.003)
  })

  test('commands out of order are played in order', async () => {
    const synth = await drumSynth()
    synth.schedule({ atSeconds: 0.5, synthChannel: 1, status: 0x90, data1: 37, data2: 127 })
    synth.schedule({ atSeconds: 0.2, synthChannel: 1, status: 0x90, data1: 37, data2: 127 })
    const audio = render(synth, 0.4)
    expect(firstSound(audio, 0) / rate).toBeCloseTo(0.2, 2)
  })

  test('cancel forgets what is to come and ends what sounds', async () => {
    const synth = new SampledSynth(rate)
    await synth.ready()
    synth.addBank('program-073', bank('program-073'))
    synth.setInstrument(2, 73)
    synth.schedule({ atSeconds: 0, synthChannel: 2, status: 0x90, data1: 72, data2: 100 })
    synth.schedule({ atSeconds: 1.5, synthChannel: 2, status: 0x90, data1: 74, data2: 100 })
    expect(firstSound(render(synth, 0.5), 0)).toBeGreaterThan(0)
    synth.cancel()
    const after = render(synth, 3)
    expect(firstSound(after, rate * 2)).toBe(-1)
  })

  /** How often the wave of a long note goes up through zero in a second: its pitch. */
  async function pitchOf(tuningCents: number): Promise<number> {
    const synth = new SampledSynth(rate)
    await synth.ready()
    synth.addBank('program-073', bank('program-073'))
    synth.setInstrument(2, 73)
    synth.setLevel(2, 1, 0, tuningCents)
    synth.schedule({ atSeconds: 0, synthChannel: 2, status: 0x90, data1: 69, data2: 110 })
    const audio = render(synth, 1.5)
    const from = Math.round(rate * 0.4)
    // The fundamental by autocorrelation around 440 Hz, refined between samples by a parabola.
    const power = (lag: number) => {
      let sum = 0
      for (let frame = from; frame < from + 30_000; frame++) sum += audio[frame]! * audio[frame + lag]!
      return sum
    }
    let best = 90
    for (let lag = 90; lag < 112; lag++) if (power(lag) > power(best)) best = lag
    const [before, at, after] = [power(best - 1), power(best), power(best + 1)]
    return rate / (best + (before - after) / (2 * (before - 2 * at + after)))
  }

  test('fine tuning is heard: 50 cents up are a factor of the 24th root of two', async () => {
    const plain = await pitchOf(0)
    const cents = 1200 * Math.log2((await pitchOf(50)) / plain)
    expect(Math.abs(cents - 50)).toBeLessThan(6)
    expect(Math.abs(1200 * Math.log2((await pitchOf(-30)) / plain) + 30)).toBeLessThan(6)
  })

  test('a program inside a track changes the sound, of a kit it does not', async () => {
    const render2 = async (program: number | null) => {
      const synth = new SampledSynth(rate)
      await synth.ready()
      for (const each of ['program-073', 'program-000']) synth.addBank(each, bank(each))
      synth.setInstrument(2, 73)
      synth.setLevel(2, 1, 0)
      if (program !== null)
        synth.schedule({ atSeconds: 0, synthChannel: 2, status: 0xc0, data1: program, data2: 0 })
      synth.schedule({ atSeconds: 0.01, synthChannel: 2, status: 0x90, data1: 72, data2: 100 })
      return render(synth, 0.4)
    }
    const [flute, piano, same] = [await render2(null), await render2(0), await render2(73)]
    const difference = (a: Float32Array, b: Float32Array) =>
      a.reduce((sum, value, frame) => sum + Math.abs(value - b[frame]!), 0)
    expect(difference(flute, same)).toBeLessThan(difference(flute, piano) / 100)
    const drums = await drumSynth()
    drums.schedule({ atSeconds: 0, synthChannel: 1, status: 0xc0, data1: 40, data2: 0 })
    drums.schedule({ atSeconds: 0.01, synthChannel: 1, status: 0x90, data1: 37, data2: 127 })
    expect(Math.max(...render(drums, 0.15).map(Math.abs))).toBeGreaterThan(0.1)
  })

  test('every General MIDI program and the drum kit are there', () => {
    for (let program = 0; program < 128; program++)
      expect(bank(`program-${String(program).padStart(3, '0')}`).byteLength).toBeGreaterThan(1000)
    expect(readFileSync('public/instruments/LICENCE.txt', 'utf8')).toContain('Permission is hereby granted')
  })
})
