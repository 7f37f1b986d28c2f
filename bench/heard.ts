import { writeMidiFile } from '../src/core/midi/standardMidiFile/write'
import { type BenchWindow, bringIn, openPage, withBrowser } from './browser'
import { atMost, type Figure, median } from './figure'

const hitCount = 40
/** 97 to the minute: no multiple of any timer. */
const tempoBpm = 97
const sideStick = 37

/** A hit on every second quarter, on the drums. */
function hitsFile(): Uint8Array {
  const events = Array.from({ length: hitCount }, (_, index) => [
    { tick: index * 960, type: 'noteOn' as const, channel: 10, key: sideStick, velocity: 127 },
    { tick: index * 960 + 100, type: 'noteOff' as const, channel: 10, key: sideStick, velocity: 64 },
  ]).flat()
  const tempo = { tick: 0, type: 'tempo' as const, microsecondsPerQuarter: Math.round(6e7 / tempoBpm) }
  return writeMidiFile({
    format: 0,
    divisionTicksPerQuarter: 480,
    tracks: [{ events: [tempo, ...events], endTick: hitCount * 960 }],
  })
}

type HeardWindow = BenchWindow & {
  recorded: { atFrame: number; samples: Float32Array }[]
  context: AudioContext
}

/**
 * What leaves the synthesiser in the browser, recorded sample by sample at its output: when each hit begins against the moment
 * at which the transport says it is due, with the whole way between, the tie of the two clocks included.
 */
export async function heardOnsets(): Promise<Figure[]> {
  const heard = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.addInitScript(() => {
      const recorder = `registerProcessor('bench-recorder', class extends AudioWorkletProcessor {
        process([[left]]) {
          if (left) this.port.postMessage({ atFrame: currentFrame, samples: left.slice() })
          return true
        }
      })`
      const window = globalThis as HeardWindow
      window.recorded = []
      const connect = AudioNode.prototype.connect as (this: AudioNode, ...to: unknown[]) => AudioNode
      AudioNode.prototype.connect = function (this: AudioNode, ...to: unknown[]) {
        if (to[0] instanceof AudioDestinationNode && this instanceof AudioWorkletNode) {
          window.context = this.context as AudioContext
          const address = URL.createObjectURL(new Blob([recorder], { type: 'text/javascript' }))
          void this.context.audioWorklet.addModule(address).then(() => {
            const node = new AudioWorkletNode(this.context, 'bench-recorder', { numberOfOutputs: 0 })
            node.port.onmessage = ({ data }) => window.recorded.push(data)
            connect.call(this, node)
          })
        }
        return connect.call(this, ...to)
      } as typeof AudioNode.prototype.connect
    })
    await bringIn(page, hitsFile(), 'tracks')
    return page.evaluate(async (count) => {
      const window = globalThis as HeardWindow
      const session = window.unbrokenSession
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      await session.startAudio()
      // The drum kit is fetched and unpacked.
      await wait(3000)
      window.recorded.length = 0
      await session.play(0, null)
      while (session.live.getState().transport.state !== 'playing') await wait(5)
      const { transport } = session.live.getState()
      if (transport.state !== 'playing') throw new Error('It should play')
      const stamp = window.context.getOutputTimestamp()
      const tie = { seconds: stamp.contextTime!, epochMs: performance.timeOrigin + stamp.performanceTime! }
      await wait((count * 2 * 60_000) / 97 + 800)
      session.stop()
      const rate = window.context.sampleRate
      const onsets: number[] = []
      let quietSince = -rate
      for (const { atFrame, samples } of window.recorded)
        for (let index = 0; index < samples.length; index++) {
          if (Math.abs(samples[index]!) < 0.02) continue
          const frame = atFrame + index
          if (frame - quietSince > rate * 0.5) onsets.push(frame / rate)
          quietSince = frame
        }
      return {
        latenessMs: onsets.slice(0, count).map((seconds, index) => {
          const heardMs = tie.epochMs + (seconds - tie.seconds) * 1000
          return heardMs - transport.startedAtMs - (index * 2 * 60_000) / 97
        }),
      }
    }, hitCount)
  })
  const { latenessMs } = heard
  if (latenessMs.length < hitCount)
    throw new Error(`Of ${hitCount} hits ${latenessMs.length} were heard at the output`)
  const constantMs = median(latenessMs)
  return [
    atMost(
      `playback onset at the synthesiser’s output in the browser: differences between ${hitCount} hits`,
      Math.max(...latenessMs.map((lateness) => Math.abs(lateness - constantMs))),
      'ms',
      2,
    ),
    atMost(
      'the same: what all hits have in common against the transport’s schedule, with the attack of the sample',
      Math.abs(constantMs),
      'ms',
      25,
    ),
  ]
}
