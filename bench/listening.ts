import { chordsByChance, playedBySampler } from '@/core/pitch/playedLines.testing'
import { writeWav } from '@/core/sound/wav'
import { openPage, withBrowser } from './browser'
import { atLeast, type Figure } from './figure'

/** About two minutes of guitar chords, read in the browser: from the press, the network fetched and compiled for the first time. */
export async function readingChords(): Promise<Figure[]> {
  const sound = playedBySampler(chordsByChance(31, 140, 40, 76), 24)
  const seconds = sound.length / 44_100
  const wav = writeWav({ left: sound, right: sound }, 44_100, 16)
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    const file = { name: 'chords.wav', mimeType: 'audio/wav', buffer: Buffer.from(wav) }
    await page.getByLabel('File to bring in').setInputFiles(file)
    const reading = page.getByRole('region', { name: 'Read a recording' })
    await reading.getByLabel('It holds').selectOption('chords')
    await reading.getByRole('button', { name: 'Read its notes' }).click({ timeout: 60_000 })
    const start = performance.now()
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
