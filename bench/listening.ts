import { performSounding, soundingPlayers } from '@/core/demo/soundingPlayers'
import { type FollowedEvent, LineFollower, notesOfFollowed } from '@/core/pitch/lineFollower'
import { type ListenerPreset, listenerSettingsOf, listeningRate } from '@/core/pitch/listenerSettings'
import {
  attackMsOf,
  chordsByChance,
  compareNotes,
  lineByChance,
  playedBySampler,
  usualManner,
} from '@/core/pitch/playedLines.testing'
import { blownPipe } from '@/core/sound/models/blownPipe'
import { pluckedString } from '@/core/sound/models/pluckedString'
import { sungVowel } from '@/core/sound/models/sungVowel'
import { resample } from '@/core/sound/resample'
import { writeWav } from '@/core/sound/wav'
import { TempoMap } from '@/core/time/tempoMap'
import { address, type BenchWindow, openPage, rendererMegabytes, withBrowser } from './browser'
import { atMost, type Figure, percentile, workAtLeast, workAtMost } from './figure'

const sampleRate = 44_100
const a2 = 45

/** About two minutes of guitar chords, from the press to the notes, the network fetched and compiled for the first time. */
export async function readingChords(): Promise<Figure[]> {
  const sound = playedBySampler(chordsByChance(31, 140, 40, 76), 24)
  const seconds = sound.length / sampleRate
  const wav = writeWav({ left: sound, right: sound }, sampleRate, 16)
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('heading', { name: 'On the shelf' }).waitFor()
    const file = { name: 'chords.wav', mimeType: 'audio/wav', buffer: Buffer.from(wav) }
    await page.getByLabel('File to bring in').setInputFiles(file)
    const reading = page.getByRole('region', { name: 'Read a recording' })
    await reading.getByLabel('It holds').selectOption('chords')
    const button = reading.getByRole('button', { name: 'Read its notes', disabled: false })
    await button.waitFor({ timeout: 60_000 })
    const start = performance.now()
    await button.click()
    await reading.getByTestId('heard-notes').waitFor({ timeout: 280_000 })
    const tookSeconds = (performance.now() - start) / 1000
    return [
      workAtLeast(
        `reading ${Math.round(seconds)} s of recorded chords in the browser, from the press to the notes: times real time`,
        seconds / tookSeconds,
        '×',
        1.5,
      ),
    ]
  })
}

/** So much of each stand-in's part. */
const playedSeconds = 20
const tempoBpm = 100

/**
 * The whole way of a sound in the program: three sounding stand-ins play into inputs, and what comes of it is looked at where the
 * synthesiser gets it. An onset is where the tone begins in the sound; of what is slower than that (a pipe, a voice), where it has a tenth
 * of its loudest. It counts from the moment at which the device hands over the buffer with that sample in it.
 */
export async function soundToSynthesiser(): Promise<Figure[]> {
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('button', { name: /^New piece/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    await page.evaluate(() => (globalThis as BenchWindow).unbrokenSession.startAudio())
    const delaysMs: number[] = []
    let [notes, unheard] = [0, 0]
    for (const player of soundingPlayers) {
      const tempoMap = new TempoMap([{ tick: 0, tempoBpm }])
      const tones = performSounding(player, tempoMap, 0).filter(({ timeMs }) => timeMs < playedSeconds * 1000)
      const arrived = await page.evaluate(
        async ({ deviceId, name, preset, seconds }) => {
          const session = (globalThis as BenchWindow).unbrokenSession
          session.soundInputs.seat({ id: deviceId, name }, preset, 1)
          await new Promise((resolve) => setTimeout(resolve, 4000))
          const keys: { key: number; epochMs: number }[] = []
          // When each tone begins in the time of the input's audio, and when the device had handed over the audio until then.
          const begins: number[] = []
          const handed: { untilSeconds: number; epochMs: number }[] = []
          const start = AudioBufferSourceNode.prototype.start
          let watched: BaseAudioContext | null = null
          AudioBufferSourceNode.prototype.start = function (when = 0, ...more) {
            begins.push(when)
            if (this.context !== watched) {
              watched = this.context
              void watch(this.context)
            }
            start.call(this, when, ...more)
          }
          const watch = async (context: BaseAudioContext) => {
            const source = `registerProcessor('bench-watch', class extends AudioWorkletProcessor {
              process() { this.port.postMessage({ untilSeconds: currentTime + 128 / sampleRate, epochMs: Date.now() }); return true }
            })`
            await context.audioWorklet.addModule(
              URL.createObjectURL(new Blob([source], { type: 'text/javascript' })),
            )
            const node = new AudioWorkletNode(context, 'bench-watch')
            node.port.onmessage = ({ data }) => handed.push(data)
          }
          const stop = session.onSynthReport((report) => {
            if (report.type === 'arrived') keys.push(report)
          })
          session.measureSynth(true)
          const startMs = performance.timeOrigin + performance.now() + 2500
          session.soundInputs.perform(startMs, 0)
          await new Promise((resolve) => setTimeout(resolve, seconds * 1000 + 3000))
          session.soundInputs.stopPerforming()
          stop()
          AudioBufferSourceNode.prototype.start = start
          session.store.getState().undo()
          return { keys, begins, handed }
        },
        { deviceId: player.deviceId, name: player.name, preset: player.preset, seconds: playedSeconds },
      )
      for (const [index, { timeMs, tone }] of tones.entries()) {
        if (tone.key <= a2 || timeMs < 300) continue
        notes++
        const onsetSeconds = arrived.begins[index]! + attackMsOf(soundOf[player.model], tone) / 1000
        const onsetMs = arrived.handed.find(({ untilSeconds }) => untilSeconds >= onsetSeconds)!.epochMs
        const known = arrived.keys.find(
          ({ key, epochMs }) => key === tone.key && epochMs > onsetMs - 30 && epochMs < onsetMs + 250,
        )
        // What never came is as late as was waited for it.
        delaysMs.push(known ? known.epochMs - onsetMs : 250)
        if (!known) unheard++
      }
    }
    return [
      atMost(
        `onset in the sound to note at the synthesiser, above A2, three sounding stand-ins, from the device's buffer with the onset in it: 95th percentile of ${notes} played (${unheard} not heard, counted as 250 ms; median ${Math.round(percentile(delaysMs, 0.5))} ms)`,
        percentile(delaysMs, 0.95),
        'ms',
        35,
      ),
    ]
  })
}

const soundOf = { pluckedString, blownPipe, sungVowel }

/** An hour of sound, a second at a time as an input sends it, but as fast as it is stored. */
export async function keptHour(): Promise<Figure[]> {
  const seconds = 3600
  const together = 20
  return withBrowser(['--js-flags=--expose-gc'], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('heading', { name: 'On the shelf' }).waitFor()
    await page.waitForTimeout(3000)
    const before = rendererMegabytes()
    await page.evaluate((rate) => {
      const worker = new Worker('/worklets/keeper.js')
      const { port1, port2 } = new MessageChannel()
      worker.postMessage({ projectId: 'bench', port: port2 }, [port2])
      // A tone that wanders, with some noise, as an instrument in a room has.
      let first = 0
      let phase = 0
      Object.assign(globalThis, {
        sendSecond() {
          const samples = new Float32Array(rate)
          const hz = 110 * 2 ** ((first / rate / 3) % 3)
          for (let index = 0; index < rate; index++) {
            phase += hz / rate
            const saw = (phase % 1) - 0.5
            samples[index] =
              0.3 * saw * Math.exp(-((index % (rate / 2)) / rate) * 4) + (Math.random() - 0.5) * 0.004
          }
          const sound = {
            portId: 'sound:bench',
            streamId: 'bench',
            startMs: (first / rate) * 1000,
            sampleRate: rate,
            firstSample: first,
            samples,
            places: new Int16Array(100),
            confidences: new Uint8Array(100),
          }
          first += rate
          port1.postMessage(sound, [samples.buffer])
        },
        stored: () =>
          new Promise((resolve, reject) => {
            const opening = indexedDB.open('unbroken-voice-sounds')
            opening.onerror = () => reject(opening.error)
            opening.onsuccess = () => {
              const db = opening.result
              if (!db.objectStoreNames.contains('outlines')) {
                db.close()
                resolve(0)
                return
              }
              const counting = db.transaction('outlines').objectStore('outlines').count()
              counting.onsuccess = () => {
                db.close()
                resolve(counting.result)
              }
            }
          }),
      })
    }, sampleRate)
    let most = 0
    const sent = { seconds: 0 }
    while (sent.seconds < seconds) {
      await page.evaluate((count) => {
        for (let index = 0; index < count; index++)
          (globalThis as unknown as { sendSecond(): void }).sendSecond()
      }, together)
      sent.seconds += together
      await page.waitForFunction(
        async (wanted) =>
          ((await (globalThis as unknown as { stored(): Promise<number> }).stored()) as number) >= wanted,
        sent.seconds,
        { timeout: 60_000, polling: 100 },
      )
      if (sent.seconds % 200 !== 0) continue
      most = Math.max(most, rendererMegabytes())
      // In the time it would have taken to play so much, the browser collects its rubbish many times.
      await page.evaluate(() => (globalThis as unknown as { gc(): void }).gc())
      for (const worker of page.workers())
        await worker.evaluate(() => (globalThis as unknown as { gc(): void }).gc())
    }
    return [
      atMost(
        'memory that an hour of one kept source takes, whole renderer process, at most (an hour of sound as fast as it is stored, rubbish collected after every 200 s of it)',
        most - before,
        'MB',
        200,
      ),
    ]
  })
}

/** Name, General MIDI program from 0, lowest and highest key, preset. */
const players: readonly [number, number, number, ListenerPreset][] = [
  [24, 46, 76, 'guitar'],
  [27, 46, 76, 'guitar'],
  [40, 55, 88, 'string'],
  [53, 48, 76, 'voice'],
  [56, 54, 82, 'wind'],
  [71, 50, 84, 'wind'],
  [73, 60, 93, 'wind'],
]

/** The follower alone, without a browser, on lines above A2 by a sampler it was not made with; the sampler's own attack is in it. */
export function followedLines(): Figure[] {
  const delaysMs: number[] = []
  let tookMs = 0
  let lastsMs = 0
  let unheard = 0
  for (const [program, lowKey, highKey, preset] of players) {
    const notes = lineByChance(program * 13 + 5, 60, { ...usualManner, lowKey, highKey })
    const sound = resample(playedBySampler(notes, program), sampleRate, listeningRate)
    const peak = sound.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
    const input = sound.map((sample) => (sample * 0.4) / peak)
    const follower = new LineFollower(listenerSettingsOf[preset])
    const events: FollowedEvent[] = []
    const start = performance.now()
    for (let at = 0; at < input.length; at += 128)
      for (const event of follower.push(input.subarray(at, at + 128))) events.push(event)
    tookMs += performance.now() - start
    lastsMs += (input.length / listeningRate) * 1000
    const heard = notesOfFollowed([...events, ...follower.end()])
    const { missed } = compareNotes(notes, heard)
    for (const note of notes) {
      if (note.key <= a2) continue
      const known = heard.find(
        ({ key, onsetMs }) => key === note.key && Math.abs(onsetMs - note.onsetMs) <= 50,
      )
      // What is missed is as late as an onset may be told and still be this note's.
      if (known && !missed.includes(note)) delaysMs.push(known.timeMs - note.onsetMs)
      else {
        delaysMs.push(250)
        unheard++
      }
    }
  }
  return [
    atMost(
      `line follower without a browser, from the onset in the score to the note, 95th percentile of ${delaysMs.length} above A2 (${unheard} missed, counted as 250 ms; median ${Math.round(percentile(delaysMs, 0.5))} ms)`,
      percentile(delaysMs, 0.95),
      'ms',
      35,
    ),
    workAtMost(
      'processor time of one line follower, without a browser',
      (100 * tookMs) / lastsMs,
      '% of a core',
      5,
    ),
  ]
}
