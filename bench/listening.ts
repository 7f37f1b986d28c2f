import { type FollowedEvent, LineFollower, notesOfFollowed } from '@/core/pitch/lineFollower'
import { type ListenerPreset, listenerSettingsOf, listeningRate } from '@/core/pitch/listenerSettings'
import {
  chordsByChance,
  compareNotes,
  lineByChance,
  playedBySampler,
  usualManner,
} from '@/core/pitch/playedLines.testing'
import { resample } from '@/core/sound/resample'
import { writeWav } from '@/core/sound/wav'
import { address, openPage, withBrowser } from './browser'
import { atLeast, atMost, type Figure, percentile } from './figure'

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
      atLeast(
        `reading ${Math.round(seconds)} s of recorded chords in the browser, from the press to the notes: times real time`,
        seconds / tookSeconds,
        '×',
        1.5,
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
      if (missed.includes(note) || note.key <= a2) continue
      const known = heard.find(
        ({ key, onsetMs }) => key === note.key && Math.abs(onsetMs - note.onsetMs) <= 50,
      )
      if (known) delaysMs.push(known.timeMs - note.onsetMs)
    }
  }
  return [
    atMost(
      `line follower without a browser, from the onset in the score to the note, 95th percentile of ${delaysMs.length} above A2 (median ${Math.round(percentile(delaysMs, 0.5))} ms)`,
      percentile(delaysMs, 0.95),
      'ms',
      35,
    ),
    atMost(
      'processor time of one line follower, without a browser',
      (100 * tookMs) / lastsMs,
      '% of a core',
      5,
    ),
  ]
}
