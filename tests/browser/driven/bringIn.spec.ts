import { readFileSync } from 'node:fs'
import { strToU8, unzipSync } from 'fflate'
import { expect, test } from '../fixtures'
import { alert, bringIn, expectEveryFileProved, goTo, openDemo, saved, savedFile } from '../helpers'

const note = (step: string, octave: number, length: number, type: string, rest = '') =>
  `<note><pitch><step>${step}</step><octave>${octave}</octave></pitch><duration>${length}</duration><voice>1</voice><type>${type}</type>${rest}</note>`
const third = (step: string, octave: number, edge = '') =>
  note(
    step,
    octave,
    2,
    'eighth',
    `<time-modification><actual-notes>3</actual-notes><normal-notes>2</normal-notes></time-modification>${edge ? `<notations><tuplet type="${edge}"/></notations>` : ''}`,
  )
/** A clarinet's four bars: a pickup, a passage twice with two endings, sung words, a double-dotted value, a triplet. */
const clarinet = `<?xml version="1.0" encoding="UTF-8"?>
<score-partwise version="4.0"><work><work-title>Ferry Bell</work-title></work><identification><creator type="composer">Ines Quarry</creator></identification>
<part-list><score-part id="P1"><part-name>Clarinet in B flat</part-name></score-part></part-list><part id="P1">
<measure number="0" implicit="yes"><attributes><divisions>6</divisions><key><fifths>2</fifths></key><time><beats>3</beats><beat-type>4</beat-type></time><clef><sign>G</sign><line>2</line></clef><transpose><diatonic>-1</diatonic><chromatic>-2</chromatic></transpose></attributes>
<direction placement="above"><direction-type><words>gently</words></direction-type><sound tempo="96"/></direction>${note('A', 4, 6, 'quarter')}</measure>
<measure number="1"><barline location="left"><repeat direction="forward"/></barline>${third('D', 5, 'start')}${third('E', 5)}${third('F', 5, 'stop')}${note('G', 5, 12, 'half', '<lyric><syllabic>single</syllabic><text>bell</text></lyric>')}</measure>
<measure number="2"><barline location="left"><ending number="1" type="start"/></barline>${note('A', 5, 18, 'half', '').replace('</type>', '</type><dot/>')}<barline location="right"><ending number="1" type="stop"/><repeat direction="backward"/></barline></measure>
<measure number="3"><barline location="left"><ending number="2" type="start"/></barline>${note('D', 5, 18, 'half', '').replace('</type>', '</type><dot/>')}<barline location="right"><bar-style>light-heavy</bar-style><ending number="2" type="discontinue"/></barline></measure>
</part></score-partwise>`
const file = { name: 'ferry bell.musicxml', bytes: strToU8(clarinet) }

test('notation comes in as tracks that play it and a page as it was written, and goes out again the same', async ({
  page,
}) => {
  await bringIn(page, file)
  // A triplet and a half note twice, the pickup and both endings once each.
  await expect(page.getByText('11 notes')).toBeVisible()
  await goTo(page, 'Score')
  const music = page.locator('.engraved svg').first()
  await expect(music).toBeVisible()
  await expect(page.getByText('treble, as its file writes it')).toBeVisible()
  await expect(page.locator('.engraved g.note')).toHaveCount(7)
  await expect(page.locator('.engraved g.tuplet')).toHaveCount(1)
  await expect(page.locator('.engraved g.ending')).toHaveCount(2)
  for (const words of ['Ferry Bell', 'Ines Quarry', 'gently', 'bell'])
    await expect(page.getByText(words, { exact: true }).first()).toBeVisible()
  // Nothing on it is of anybody's hand.
  await expect(page.getByRole('region', { name: 'Changed by hand' })).toHaveCount(0)

  await saved(page)
  await page.reload()
  await expect(page.locator('.engraved g.ending')).toHaveCount(2)

  await goTo(page, 'Deliver')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".mei"]')).toBeVisible({ timeout: 60_000 })
  await expectEveryFileProved(page)
  const out = await savedFile(page, page.getByRole('button', { name: 'Save Ferry Bell.musicxml' }))
  const text = new TextDecoder().decode(out.bytes)
  for (const wanted of [
    '<chromatic>-2</chromatic>',
    '<ending number="2" type="start">',
    '<repeat direction="backward"/>',
    'implicit="yes"',
    '<tuplet type="start"',
    '<text>bell</text>',
  ])
    expect(text).toContain(wanted)
  const mei = await savedFile(page, page.getByRole('button', { name: 'Save Ferry Bell.mei' }))

  const abc = await savedFile(page, page.getByRole('button', { name: 'Save Ferry Bell.abc' }))

  // What went out as MEI, or ABC, is the same piece when it comes in.
  await bringIn(page, { name: 'again.mei', bytes: mei.bytes })
  await expect(page.getByText('11 notes')).toBeVisible()
  await bringIn(page, { name: 'again.abc', bytes: abc.bytes })
  await expect(page.getByText('11 notes')).toBeVisible()
  await goTo(page, 'Score')
  await expect(page.getByText('treble, as its file writes it')).toBeVisible()
  await expect(page.locator('.engraved g.ending')).toHaveCount(2)
  await expect(page.locator('.engraved g.tuplet')).toHaveCount(1)
})

test('MIDI in one track, and MusicXML of each part, are written and checked like the others', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Deliver')
  await page.getByLabel('in', { exact: true }).selectOption({ label: 'one track' })
  await page.getByText('MusicXML of each part too').click()
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.getByRole('region', { name: 'Each part as MusicXML of its own' })).toBeVisible({
    timeout: 60_000,
  })
  await expectEveryFileProved(page)
  await expect(page.getByText('Not in it: signs of the pedal')).toBeVisible()
  const midi = await savedFile(page, page.getByRole('button', { name: 'Save Lamps on the Ebb.mid' }))
  // Format 0, one track.
  expect([...midi.bytes.slice(8, 12)]).toEqual([0, 0, 0, 1])
  const flute = await savedFile(page, page.getByRole('button', { name: 'Save 01 Orla’s flute.musicxml' }))
  expect(new TextDecoder().decode(flute.bytes).match(/<score-part /g)).toHaveLength(1)
})

test('a page is read anew where that is wanted, and the way back is one press', async ({ page }) => {
  await bringIn(page, file)
  await goTo(page, 'Score')
  await expect(page.locator('.engraved g.ending')).toHaveCount(2)
  await page.getByRole('button', { name: 'read it anew' }).dblclick()
  await expect(page.getByText('as its file writes it')).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(page.getByText('treble, as its file writes it')).toBeVisible()
  await expect(page.locator('.engraved g.tuplet')).toHaveCount(1)
})

test('several files at once come to lie on the shelf; those that cannot be read say why', async ({
  page,
}) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
  const asFile = (name: string, text: string) => ({
    name,
    mimeType: 'application/xml',
    buffer: Buffer.from(text),
  })
  await page
    .getByLabel('File to bring in')
    .setInputFiles([
      asFile('one.musicxml', clarinet),
      asFile('bad.musicxml', '<score-partwise><part-list><score-part'),
      asFile('two.xml', clarinet.replace('Ferry Bell', 'Harbour Bell')),
    ])
  await expect(alert(page)).toContainText('“bad.musicxml”: Line 1')
  await expect(page.getByRole('button', { name: 'Open Ferry Bell', exact: true })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Open Harbour Bell', exact: true })).toBeVisible()
})

test('of a file that is cut off, what could be read is opened, and says so', async ({ page }) => {
  await bringIn(page, {
    name: 'cut.musicxml',
    bytes: strToU8(clarinet.slice(0, clarinet.indexOf('<measure number="3">') + 60)),
  })
  await expect(page.getByText(/The file is damaged: Line \d+.*3 bars of one part/)).toBeVisible()
  await expect(page.getByText('10 notes')).toBeVisible()
})

test('a parcel holds everything with a list of it, and is stopped with a press', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Deliver')
  const parcel = page.getByRole('region', { name: 'A parcel for somebody else' })
  const make = parcel.getByRole('button', { name: 'Make and save the parcel' })
  await make.click()
  await parcel.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(parcel.getByRole('alert')).toContainText('It was stopped; nothing was saved')

  const saving = page.waitForEvent('download', { timeout: 90_000 })
  await make.click()
  const download = await saving
  const bytes = new Uint8Array(readFileSync(await download.path()))
  const names = Object.keys(unzipSync(bytes, { filter: () => true }))
  expect(download.suggestedFilename()).toBe('Lamps on the Ebb, parcel.zip')
  for (const wanted of [
    'what is inside.txt',
    'Lamps on the Ebb.voice',
    'Lamps on the Ebb.musicxml',
    'Lamps on the Ebb.mxl',
    'Lamps on the Ebb.mei',
    'Lamps on the Ebb.mid',
    'Lamps on the Ebb, score and parts.pdf',
    'Lamps on the Ebb.wav',
  ])
    expect(names).toContain(wanted)
  expect(names.filter((name) => name.startsWith('tracks/'))).toHaveLength(3)
  expect(names.filter((name) => name.startsWith('sound/'))).toHaveLength(3)
  const list = new TextDecoder().decode(unzipSync(bytes)['what is inside.txt'])
  expect(list).toContain('16 bars')
  expect(list).toMatch(/Lamps on the Ebb\.musicxml +255 of 255 notes read back the same, by verovio/)
})

test('a file comes into the open piece: at a bar, with its page, and goes away with one undo', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Players')
  const lay = page.getByRole('region', { name: 'Tracks from a file' })
  const field = page.getByLabel('File with tracks for this piece')
  const asField = { name: file.name, mimeType: 'application/xml', buffer: Buffer.from(file.bytes) }
  await field.setInputFiles({ ...asField, buffer: Buffer.from('<mei><music>') })
  await expect(page.getByText(/was not brought in, and nothing was changed: Line 1/)).toBeVisible()
  await field.setInputFiles(asField)
  await expect(lay).toContainText('Ferry Bell: 1 part, 11 notes')
  await lay.getByLabel('begins at bar').fill('18')
  await lay.getByLabel('begins at bar').press('Enter')
  await lay.getByLabel('Tempo and meter').selectOption('file')
  await lay.getByRole('button', { name: 'Bring it in' }).click()
  await expect(lay).toHaveCount(0)
  await goTo(page, 'Score')
  await expect(page.getByText('treble, as its file writes it')).toBeVisible()
  await expect(page.getByRole('button', { name: /^5 Score|Score/ }).first()).toContainText(/2[0-9] bars/)
  await page.keyboard.press('Control+z')
  await expect(page.getByText('as its file writes it')).toHaveCount(0)
})
