import { strFromU8, unzipSync } from 'fflate'
import { parseMidi } from 'midi-file'
import { inspectMidiFile } from '../../../src/core/midi/standardMidiFile/inspect'
import { readMidiFile } from '../../../src/core/midi/standardMidiFile/read'
import { expect, test } from '../fixtures'
import { bringIn, expectEveryFileProved, goTo, openDemo, reaches, saved, savedFile } from '../helpers'

/** The whole way: players, a recorded take, an effect printed, editing, the page, files, and back again. */
test('from players to a score file', async ({ page, browser }) => {
  test.setTimeout(240_000)
  await openDemo(page)

  await test.step('players: each source has its own track, and notes run along the threads', async () => {
    for (const name of ['Orla’s flute', 'Benno’s piano', 'Sefa’s harp', 'Your keys']) {
      await expect(
        page.getByRole('region', { name: 'Who plays' }).getByRole('heading', { name }),
      ).toBeVisible()
      await expect(
        page.getByRole('region', { name: 'Where it goes' }).getByRole('heading', { name }),
      ).toBeVisible()
    }
    await page.getByRole('button', { name: 'Let them play' }).click()
    await expect(page.locator('[data-source="stand-in-1"]')).toContainText(/[A-G][♯♭]?\d/)
    await page.getByRole('button', { name: 'Thank you, stop' }).click()
  })

  await test.step('record: everybody at once, with a person on the computer keyboard', async () => {
    await goTo(page, 'Record')
    await page.getByRole('button', { name: 'Record everyone' }).click()
    await page.waitForFunction(
      () => document.querySelector('[data-testid=position]')?.textContent === 'count-in',
      undefined,
      { polling: 20 },
    )
    await reaches(page, 2)
    for (const key of ['KeyA', 'KeyD', 'KeyG']) {
      await page.keyboard.down(key)
      await page.waitForTimeout(180)
      await page.keyboard.up(key)
    }
    await reaches(page, 17, 2)
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await expect(page.getByTestId('take-account')).toContainText('Take 2: 258 notes heard, 258 on tracks')
    await expect(page.getByRole('complementary', { name: 'Takes' })).toContainText(/\d{4} events as played/)
  })

  await test.step('effect: an arpeggio on the harp’s chords, printed as notes', async () => {
    await goTo(page, 'Effects')
    await page
      .getByRole('navigation', { name: 'Tracks with effects' })
      .getByRole('button', { name: /Sefa/ })
      .first()
      .click()
    await page.getByRole('button', { name: 'Put in an effect' }).click()
    await page
      .getByRole('menuitem')
      .filter({ has: page.getByText('Arpeggio', { exact: true }) })
      .click()
    await page.getByLabel('Rate').selectOption('1/8')
    await page.getByLabel('Order').selectOption('up and down')
    await page.getByLabel('Octaves').fill('2')
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await reaches(page, 1, 2)
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await page.getByRole('button', { name: /^Print \d+ notes/ }).click()
    await expect(page.getByText('Each line below leads to the note it came from')).toBeVisible()
    await expect(page.getByTestId('result-count')).toContainText(/printed · 1[23]\d notes/)
    await page.getByRole('button', { name: 'Go to Sefa’s harp' }).click()
    await expect(page.getByText(/rests, and its effects rest too/)).toBeVisible()
  })

  await test.step('tracks: edit, quantise, undo and redo across everything', async () => {
    await goTo(page, 'Tracks')
    await page
      .locator('[data-lane]')
      .nth(1)
      .click({ position: { x: 700, y: 30 } })
    await expect(page.getByTestId('selection')).toHaveText('141 notes')
    const roll = page.getByRole('application', { name: /Notes of Benno’s piano/ })
    await roll.focus()
    await page.keyboard.press('Control+a')
    await expect(page.getByTestId('selection')).toHaveText('141 of 141 notes selected')
    await page.getByRole('button', { name: 'Edit', exact: true }).click()
    await page.getByRole('button', { name: 'Quantise 141' }).click()
    await page.getByRole('button', { name: 'Close: Edit notes' }).click()
    await roll.focus()
    await page.keyboard.press('Delete')
    await expect(page.getByTestId('selection')).toHaveText('0 notes')
    await page.keyboard.press('Control+z')
    await expect(page.getByTestId('selection')).toContainText('141')
    await expect(page.getByRole('button', { name: /^Undo: quantise 141 notes/ })).toBeVisible()
    await page.keyboard.press('Control+z')
    await page.keyboard.press('Control+Shift+z')
    await expect(page.getByRole('button', { name: /^Undo: quantise 141 notes/ })).toBeVisible()
    await page.getByRole('combobox', { name: 'Instrument of Benno’s piano' }).click()
    await page.getByRole('option', { name: 'Harpsichord' }).click()
    await page.getByRole('button', { name: 'Mute Orla’s flute' }).click()
    await expect(page.getByRole('button', { name: 'Mute Orla’s flute' })).toHaveAttribute(
      'aria-pressed',
      'true',
    )
    await page.getByRole('button', { name: 'Mute Orla’s flute' }).click()
  })

  await test.step('score: grand staff for the piano, and note and notehead know each other', async () => {
    await goTo(page, 'Score')
    await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
    await expect(page.getByRole('complementary', { name: 'On the page' })).toContainText(
      'grand staff, split C4',
    )
    await expect(page.getByTestId('ledger').first()).toContainText('0 merged: doubles, ornaments')
    const notehead = page.getByTestId('page').locator('[data-system="0"] g.note .notehead').nth(3)
    await notehead.click({ force: true })
    await expect(page.getByTestId('note-details')).toContainText(/played (right on it|\d+ ms (early|late))/)
    await expect(page.getByTestId('note-details')).toContainText(/played, Take 2|printed from/)
    await page.getByRole('button', { name: 'In its track' }).click()
    await expect(page.getByTestId('selection')).toContainText(/velocity \d+/)
    await page.getByRole('button', { name: 'Show on the page' }).click()
    await expect(page.getByTestId('page').locator('g.note.is-selected')).toHaveCount(1)
    await page.getByLabel('Split at').fill('E4')
    await page.getByLabel('Split at').press('Enter')
    await expect(page.getByRole('complementary', { name: 'On the page' })).toContainText(
      'grand staff, split E4',
    )
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await expect(page.getByTestId('score-playhead')).toBeVisible()
    await expect(page.getByTestId('score-playhead')).toHaveAttribute('data-bar', /^([2-9]|\d\d)$/)
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
  })

  const files = await test.step('deliver: every file is proved before it is offered', async () => {
    await goTo(page, 'Deliver')
    await page.getByRole('button', { name: 'Write and check the files' }).click()
    await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
    await expectEveryFileProved(page)
    const save = (name: string) =>
      savedFile(page, page.getByRole('button', { name: `Save ${name}`, exact: true }))
    const plain = await save('Lamps on the Ebb.musicxml')
    const packed = await save('Lamps on the Ebb.mxl')
    const midi = await save('Lamps on the Ebb.mid')
    const stem = await save('02 Benno’s piano.mid')
    const project = await savedFile(page, page.getByRole('button', { name: 'Save the project to a file' }))
    return { plain, packed, midi, stem, project }
  })

  await test.step('the files hold what the page said', async () => {
    const xml = strFromU8(files.plain.bytes)
    expect(xml).toContain('<part-name>Orla’s flute</part-name>')
    expect(xml).toContain('<staves>2</staves>')
    expect(strFromU8(unzipSync(files.packed.bytes)['score.musicxml']!)).toBe(xml)
    const report = inspectMidiFile(readMidiFile(files.midi.bytes))
    expect(report.format).toBe(1)
    expect(report.tempos).toEqual([{ tick: 0, bpm: 92 }])
    expect(report.tracks.map((track) => track.name)).toEqual([
      'Orla’s flute',
      'Benno’s piano',
      'Sefa’s harp',
      'Sefa’s harp, printed',
      'Your keys',
    ])
    expect(report.tracks[1]!.program).toBe(6)
    expect(report.hangingNotes).toBe(0)
    // A second reader agrees, and the stem holds the same notes as the track in the whole file.
    const notes = (bytes: Uint8Array, track: number) => {
      let tick = 0
      return parseMidi(bytes).tracks[track]!.flatMap((event) => {
        tick += event.deltaTime
        return event.type === 'noteOn' && event.velocity > 0 ? [`${tick} ${event.noteNumber}`] : []
      })
    }
    expect(notes(files.stem.bytes, 1)).toEqual(notes(files.midi.bytes, 2))
    expect(notes(files.stem.bytes, 1)).toHaveLength(141)
  })

  await test.step('come back: a reload loses nothing', async () => {
    await saved(page)
    await page.reload()
    await expect(page.getByRole('navigation', { name: 'Steps of the work' })).toContainText('5 tracks')
    await goTo(page, 'Record')
    await expect(page.getByRole('complementary', { name: 'Takes' })).toContainText('Take 2')
  })

  await test.step('bring in: the MIDI file opens as a project, one track for each channel', async () => {
    await bringIn(page, files.midi)
    await expect(page.getByRole('navigation', { name: 'Steps of the work' })).toContainText('5 tracks')
    await expect(page.locator('[data-lane]').first()).toContainText('Orla’s flute')
    await goTo(page, 'Score')
    await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
    await expect(page.getByRole('complementary', { name: 'On the page' })).toContainText('grand staff')
    await goTo(page, 'Deliver')
    await page.getByRole('button', { name: 'Write and check the files' }).click()
    await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
    await expectEveryFileProved(page)
  })

  await test.step('the project file opens on another machine', async () => {
    const other = await browser.newContext({ viewport: { width: 1280, height: 800 } })
    const elsewhere = await other.newPage()
    await bringIn(elsewhere, files.project)
    await expect(elsewhere.getByRole('navigation', { name: 'Steps of the work' })).toContainText('5 tracks')
    await goTo(elsewhere, 'Record')
    await expect(elsewhere.getByRole('complementary', { name: 'Takes' })).toContainText(
      /\d{4} events as played/,
    )
    await other.close()
  })
})
