import { writeMidiFile } from '../../../src/core/midi/standardMidiFile/write'
import { composeKnownScore } from '../../../src/core/notation/rhythm/performedScores.testing'
import { playTouched } from '../../../src/core/notation/rhythm/touchingPlayer.testing'
import { knownMusic, mergedNotes } from '../../../src/core/separation/voices/knownMusic.testing'
import { expect, test } from '../fixtures'
import { bringIn, deliveredMusicXml, goTo, openDemo } from '../helpers'

/** A clarinet, 70 ms late and short at every fourth note, growing louder, with words. */
function lateClarinet(): Uint8Array {
  const known = composeKnownScore('straight', 24, 6)
  const player = { touch: 'every fourth short', tempoBpm: 100, errorMs: 10, lateMs: 70, seed: 5 } as const
  const fileTick = (ticks: number) => Math.round(ticks / 21)
  const notes = playTouched(known, player).flatMap((note, index) => [
    {
      tick: fileTick(note.onsetTicks),
      type: 'noteOn' as const,
      channel: 1,
      key: note.key,
      velocity: index < known.length / 2 ? 50 : 98,
    },
    {
      tick: fileTick(note.onsetTicks + note.durationTicks),
      type: 'noteOff' as const,
      channel: 1,
      key: note.key,
      velocity: 64,
    },
  ])
  const events = [
    { tick: 0, type: 'tempo' as const, microsecondsPerQuarter: 600_000 },
    { tick: 0, type: 'program' as const, channel: 1, program: 71 },
    { tick: 0, type: 'trackName' as const, text: 'Clarinet' },
    { tick: 0, type: 'copyright' as const, text: 'the Lantern Press' },
    { tick: 0, type: 'text' as const, text: 'Composer: Signe Vold' },
    ...['tide', 'out'].map((text, beat) => ({ tick: 34 + beat * 480, type: 'lyric' as const, text })),
    ...notes,
  ].sort((a, b) => a.tick - b.tick || Number(b.type === 'noteOff') - Number(a.type === 'noteOff'))
  return writeMidiFile({
    format: 1,
    divisionTicksPerQuarter: 480,
    tracks: [{ events, endTick: events.at(-1)!.tick }],
  })
}

test('touch, lateness, force, words and written pitch are on the page and in the file, and each can be switched off', async ({
  page,
}) => {
  await bringIn(page, { name: 'late.mid', bytes: lateClarinet() })
  await page.waitForURL(/project/)
  await goTo(page, 'Score')
  const parts = page.getByRole('region', { name: 'Parts' })
  await expect(parts).toContainText(/played (6\d|7\d) ms late throughout/)
  await expect(page.getByText('Signe Vold')).toBeVisible()
  await expect(page.getByText('the Lantern Press')).toBeVisible()
  const sheet = page.getByTestId('page')
  await expect(sheet.locator('g.note').first()).toBeVisible()
  await expect(sheet.getByText('tide')).toBeAttached()

  // Pressed twice, a tick is as it was, and nothing has moved under the second press.
  await page.getByRole('checkbox', { name: 'all parts as they sound' }).dblclick()
  for (const name of ['short notes as dots, not rests', 'clefs and octave lines change'])
    await expect(page.getByRole('checkbox', { name })).toBeChecked()
  await expect(page.getByRole('checkbox', { name: 'all parts as they sound' })).not.toBeChecked()

  const written = await deliveredMusicXml(page)
  for (const part of [
    '<creator type="composer">Signe Vold</creator>',
    '<transpose><diatonic>-1</diatonic><chromatic>-2</chromatic></transpose>',
    '<staccato/>',
    '<dynamics><p/></dynamics>',
    '<dynamics><f/></dynamics>',
    '<text>tide</text>',
  ])
    expect(written).toContain(part)
  expect(written).not.toContain('<time-modification>')

  await goTo(page, 'Score')
  for (const name of ['short notes as dots, not rests', 'dynamics and accents', 'words and syllables'])
    await page.getByRole('checkbox', { name }).uncheck()
  await page.getByRole('checkbox', { name: 'all parts as they sound' }).check()
  const plain = await deliveredMusicXml(page)
  for (const part of ['<transpose>', '<staccato/>', '<dynamics><', '<lyric'])
    expect(plain).not.toContain(part)

  await goTo(page, 'Score')
  await page.getByRole('checkbox', { name: 'all parts as they sound' }).uncheck()
  await page.getByLabel('Clarinet is written').selectOption({ label: 'written in A' })
  await page.reload()
  await goTo(page, 'Score')
  await expect(page.getByLabel('Clarinet is written')).toHaveValue('in A')
  await expect(page.getByRole('checkbox', { name: 'dynamics and accents' })).not.toBeChecked()
})

test('a split that tears lines is said, and staves follow the hands with one press; keys are told by their bars', async ({
  page,
}) => {
  const known = knownMusic.find(({ title }) => title.includes('polonaise'))!
  const events = mergedNotes(known)
    .flatMap(({ onsetQuarters, endQuarters, key }) => [
      { tick: Math.round(onsetQuarters * 480), type: 'noteOn' as const, channel: 1, key, velocity: 80 },
      { tick: Math.round(endQuarters * 480) - 10, type: 'noteOff' as const, channel: 1, key, velocity: 64 },
    ])
    .sort((a, b) => a.tick - b.tick)
  const bytes = writeMidiFile({
    format: 0,
    divisionTicksPerQuarter: 480,
    tracks: [{ events, endTick: events.at(-1)!.tick }],
  })
  await page.goto('/')
  await bringIn(page, { name: 'hands.mid', bytes })
  await goTo(page, 'Score')
  const remarks = page.getByRole('list', { name: 'Remarks on the reading' })
  await expect(remarks).toContainText('the split at C4 tears')
  await remarks.getByRole('button', { name: 'Follow the hands' }).click()
  await expect(page.getByText('grand staff, by hands')).toBeVisible()
  await expect(remarks).not.toContainText('tears')
  await expect(page.getByRole('checkbox', { name: 'staves follow the hands' })).toBeChecked()

  await page.getByRole('spinbutton', { name: 'from bar' }).or(page.getByLabel('from bar')).first().fill('5')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Another key' }).click()
  const changes = page.getByRole('list', { name: 'Changes of key' })
  await expect(changes).toContainText('bar 5')
  await changes.getByRole('combobox').selectOption('-5 major')
  const text = await deliveredMusicXml(page)
  expect(text).toMatch(/<measure number="5">(?:(?!<\/measure>)[\s\S])*<fifths>-5<\/fifths>/)
})

/** Two hands on a track each, the right one with a grace note; the four bars come twice. */
function twoHandsTwice(): Uint8Array {
  const line = (name: string, channel: number, notes: readonly (readonly [number, number, number])[]) => {
    const events = [
      { tick: 0, type: 'trackName' as const, text: name },
      { tick: 0, type: 'program' as const, channel, program: 0 },
      ...notes.flatMap(([tick, length, key]) => [
        { tick, type: 'noteOn' as const, channel, key, velocity: 80 },
        { tick: tick + length, type: 'noteOff' as const, channel, key, velocity: 64 },
      ]),
    ].sort((a, b) => a.tick - b.tick || Number(b.type === 'noteOff') - Number(a.type === 'noteOff'))
    return { events, endTick: events.at(-1)!.tick }
  }
  const quarters = Array.from({ length: 32 }, (_, index) => index)
  return writeMidiFile({
    format: 1,
    divisionTicksPerQuarter: 480,
    tracks: [
      line('Piano, right hand', 1, [
        ...[0, 16].map((at) => [at * 480 + 425, 50, 75] as const),
        ...quarters.map((at) => [at * 480, 440, 72 + [0, 4, 7, 5, 9][(at % 16) % 5]!] as const),
      ]),
      line(
        'Piano, left hand',
        2,
        quarters.map((at) => [at * 480, 440, 48 + [0, 7, 5][(at % 16) % 3]!] as const),
      ),
    ],
  })
}

test('hands of one player become one part, a grace note is told as one, and what comes twice is a repeat on request', async ({
  page,
}) => {
  await page.goto('/')
  await bringIn(page, { name: 'hands.mid', bytes: twoHandsTwice() })
  await goTo(page, 'Score')
  const remarks = page.getByRole('list', { name: 'Remarks on the reading' })
  await remarks.getByRole('button', { name: 'Write one part' }).click()
  const sheet = page.getByTestId('page')
  await expect(sheet.locator('g.note').first()).toBeVisible()
  await expect(remarks).not.toContainText('hands of one player')
  await expect(page.getByRole('region', { name: 'Parts' })).toContainText('grand staff')

  await page.getByRole('region', { name: 'Page' }).focus()
  for (let step = 0; step < 2; step++) await page.keyboard.press('ArrowRight')
  await expect(page.getByTestId('note-details')).toContainText('grace note')

  await page.getByRole('checkbox', { name: 'the same twice as a repeat' }).check()
  await expect(page.getByText(/merged: doubles/)).toBeVisible()
  const written = await deliveredMusicXml(page)
  expect(written.match(/<measure /g)).toHaveLength(4)
  expect(written).toContain('<repeat direction="backward"/>')
  expect(written.match(/<grace slash="yes"\/>/g)).toHaveLength(1)
})

test('parts are put in the order of an orchestra with one press, and moved by their handles', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Score')
  const parts = page.getByRole('region', { name: 'Parts' })
  const names = () => parts.getByRole('listitem').allTextContents()
  const order = async () =>
    (await names()).map((text) => /Orla|Benno|Sefa/.exec(text)?.[0]).filter((name) => name !== undefined)
  await expect.poll(order).toEqual(['Orla', 'Benno', 'Sefa'])
  const handle = parts.getByRole('button', { name: 'Move Sefa’s harp: space, then arrows' })
  await handle.focus()
  await page.keyboard.press('Space')
  for (let step = 0; step < 2; step++) {
    await page.waitForTimeout(300)
    await page.keyboard.press('ArrowUp')
  }
  await page.waitForTimeout(300)
  await page.keyboard.press('Space')
  await expect.poll(order).toEqual(['Sefa', 'Orla', 'Benno'])
  await expect(page.getByTestId('page').locator('g.staff').first()).toBeVisible()
  await parts.getByRole('button', { name: 'In the order of an orchestra' }).click()
  await expect.poll(order).toEqual(['Orla', 'Benno', 'Sefa'])
  await expect(parts.getByRole('button', { name: 'In the order of an orchestra' })).toHaveCount(0)
})
