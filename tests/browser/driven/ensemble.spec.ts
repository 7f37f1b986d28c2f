import { expect, type Page, test } from '../fixtures'
import { alert, chooseTrack, goTo, newPiece, openDemo, reaches, saved } from '../helpers'
import { play, plug, sentTo, unplug, withMidiPorts } from '../midiPorts'

const account = (page: Page) => page.getByTestId('take-account')
const remarks = (page: Page) => page.getByRole('list', { name: 'Remarks on the wiring' })

/** Opens the settings below a card of the players view. */
async function openWays(page: Page, track: string): Promise<void> {
  await page.getByRole('button', { name: `Ways of ${track}` }).click()
}

async function recordUntil(page: Page, bar: number, beat = 1): Promise<void> {
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await reaches(page, bar, beat)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
}

test('six players at once land on six tracks with no setting touched', async ({ page }) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await expect(page.getByText('Every player reaches a track of their own.')).toBeVisible()
  await recordUntil(page, 3)
  await expect(account(page)).toContainText(/Take 1: (\d+) notes heard, \1 on tracks/)
  await page.getByText('Where every note went').click()
  const rows = page.getByTestId('heard-streams').getByRole('row')
  await expect(rows).toHaveCount(7)
  await goTo(page, 'Tracks')
  for (const name of [
    'Orla’s flute',
    'Benno’s piano',
    'Sefa’s harp',
    'Runa’s drums',
    'Ivo’s cello',
    'Mette’s marimba',
  ]) {
    await chooseTrack(page, name)
    await expect(page.getByTestId('selection')).toHaveText(/^\d+ notes$/)
    await expect(page.getByTestId('selection')).not.toHaveText(/^0 notes$/)
  }
  // What else was moved is there as curves: the breath of the flute and the hi-hat of the drums.
  await chooseTrack(page, 'Orla’s flute')
  await expect(page.getByLabel('Curve', { exact: true })).toHaveValue('controller 2')
  await expect(page.getByTestId('curve-count')).toHaveText(/^\d\d+ events$/)
  await chooseTrack(page, 'Benno’s piano')
  await expect(page.getByLabel('Curve', { exact: true })).toHaveValue('controller 64')
})

test('three ports of sixteen channels are 48 tracks, recorded at once', async ({ page }) => {
  const ports = ['Red box', 'Green box', 'Blue box'].map((name, index) => ({ id: `port-${index}`, name }))
  await withMidiPorts(page, ports)
  await newPiece(page)
  const everybody = async (status: number, key: number) => {
    for (const { id } of ports)
      await play(page, id, ...Array.from({ length: 16 }, (_, channel) => [status | channel, key, 80]))
  }
  await everybody(0x90, 60)
  await everybody(0x80, 60)
  await expect(page.locator('[data-source]')).toHaveCount(49)
  await goTo(page, 'Record')
  await page.getByLabel('count-in').selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  for (let note = 0; note < 4; note++) {
    await everybody(0x90, 60 + note)
    await everybody(0x80, 60 + note)
  }
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(account(page)).toContainText('192 notes heard, 192 on tracks')
  await expect(page.getByText(/events as played · on 48 tracks/)).toBeVisible()
})

test('a wrong channel is found, said in a sentence, and mended by the button beside it', async ({ page }) => {
  await openDemo(page)
  await openWays(page, 'Sefa’s harp')
  await page.getByRole('group', { name: 'The way in' }).getByLabel('channel').selectOption('7')
  const remark = remarks(page).getByRole('listitem').filter({ hasText: 'Sefa’s harp is silent.' })
  await expect(remark).toContainText('The track listens to channel 7, but Sefa’s harp sends on channel 3.')
  await remark.getByRole('button', { name: 'Listen to channel 3' }).click()
  await expect(page.getByText('Every player reaches a track of their own.')).toBeVisible()
  await page.getByRole('button', { name: 'Let them play' }).click()
  await expect(page.locator('[data-source="stand-in-3"]')).toContainText(/[A-G]♭?♯?\d/)
  await page.getByRole('button', { name: 'Thank you, stop' }).click()
})

test('what keeps a track silent is named link by link, and can be meant so', async ({ page }) => {
  await openDemo(page)
  await openWays(page, 'Orla’s flute')
  await page.getByLabel('is heard').selectOption('off')
  await expect(remarks(page)).toContainText('Orla’s flute reaches it, but what arrives is not monitored.')
  await page.getByRole('button', { name: 'It is meant so: Orla’s flute is silent.' }).click()
  await expect(
    page.getByText('Every player reaches a track of their own. 1 remark is meant so.'),
  ).toBeVisible()
  await page.getByRole('button', { name: /^Undo: it is meant so/ }).click()
  // Said where it happens too, with the same remedy: on the player's card and on the track's.
  const card = page
    .locator('[data-track]')
    .filter({ has: page.getByRole('heading', { name: 'Orla’s flute' }) })
  await expect(card).toContainText('Orla’s flute is silent.')
  await card.getByRole('button', { name: 'Hear Orla’s flute' }).click()
  await expect(remarks(page)).toHaveCount(0)
})

test('one keyboard, two tracks: divided by key range, transposed and at a fixed velocity', async ({
  page,
}) => {
  await withMidiPorts(page, [{ id: 'keys', name: 'Grey keyboard' }])
  await newPiece(page)
  await play(page, 'keys', [0x90, 60, 50], [0x80, 60, 0])
  const first = 'Grey keyboard, channel 1'
  await openWays(page, first)
  await page.getByRole('group', { name: 'The way in' }).getByLabel('keys').fill('C4')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Add a track' }).click()
  await page.getByRole('button', { name: 'Assign New track by playing' }).click()
  await play(page, 'keys', [0x90, 48, 50], [0x80, 48, 0])
  await openWays(page, 'New track')
  const way = page.getByRole('group', { name: 'The way in' })
  await way.getByLabel('to').fill('B3')
  await page.keyboard.press('Enter')
  await way.getByLabel('transpose').fill('-12')
  await page.keyboard.press('Enter')
  await way.getByLabel('velocity').selectOption('fixed')
  await expect(page.getByText('Every player reaches a track of their own.')).toBeVisible()
  await play(page, 'keys', [0x90, 72, 50], [0x80, 72, 0], [0x90, 48, 50], [0x80, 48, 0])
  await page.getByRole('button', { name: /^Keep as a take/ }).click()
  await goTo(page, 'Tracks')
  await chooseTrack(page, 'New track')
  await page.getByRole('button', { name: 'Show as list' }).click()
  const list = page.getByRole('region', { name: 'List of notes of New track' })
  await expect(list.getByRole('row').last()).toContainText('C2')
  await expect(list.getByRole('row').last()).toContainText('90')
})

test('a port unplugged with a key down lets it go, and takes up its old place when it is back', async ({
  page,
}) => {
  await withMidiPorts(page, [{ id: 'keys', name: 'Grey keyboard' }])
  await newPiece(page)
  await play(page, 'keys', [0x90, 60, 80], [0x80, 60, 0])
  await goTo(page, 'Record')
  await page.getByLabel('count-in').selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  await play(page, 'keys', [0x90, 64, 80])
  await page.waitForTimeout(300)
  await unplug(page, 'keys')
  await page.waitForTimeout(1200)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  // Ended when the port went, not when recording stopped.
  await expect(account(page)).toContainText(/1 notes heard, 1 on tracks\./)
  await expect(account(page)).not.toContainText('ended when recording stopped')
  await goTo(page, 'Players')
  await expect(remarks(page)).toContainText('The port “Grey keyboard” is not connected.')
  // On another socket the same device has another identifier.
  await plug(page, 'keys-again', 'Grey keyboard')
  await expect(remarks(page)).toHaveCount(0)
  await play(page, 'keys-again', [0x90, 67, 80])
  await expect(page.locator('[data-source]').filter({ hasText: 'Grey keyboard' })).toContainText('G4')
  await expect(page.locator('[data-source]')).toHaveCount(2)
})

test('a feedback cycle is refused before it sounds', async ({ page }) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await page.getByText('Cables', { exact: true }).click()
  await page.getByLabel('Name of a new cable').fill('Breakwater')
  await page.getByRole('button', { name: 'Lay it' }).click()
  // The flute sends over the cable, the piano's track hears it: fine. Sent back, it would go round.
  await openWays(page, 'Orla’s flute')
  await page.getByLabel('also sends to').selectOption({ label: 'cable Breakwater' })
  await page.getByRole('button', { name: 'Let them play' }).click()
  await expect(page.locator('[data-source]').filter({ hasText: 'over a cable' })).toHaveCount(1)
  await page.getByRole('button', { name: 'Thank you, stop' }).click()
  await page.getByRole('button', { name: /^Ways of Breakwater/ }).click()
  await page.getByLabel('also sends to').selectOption({ label: 'cable Breakwater' })
  await expect(page.getByLabel('on channel')).toBeVisible()
  // On a channel of its own it goes out; on the one it hears it would come back.
  const heard = await page.getByRole('group', { name: 'The way in' }).getByLabel('channel').inputValue()
  await page.getByLabel('on channel').selectOption(heard)
  await expect(alert(page)).toContainText(
    /That would feed back: Breakwater, channel (\d+) → Breakwater, channel \1\./,
  )
  await expect(page.getByLabel('on channel')).toHaveValue('0')
})

test('a set-up with groups is saved and used again in a new project', async ({ page }) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await page.getByRole('button', { name: 'Settings of Orla’s flute' }).click()
  await page.getByLabel('group').fill('Winds')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: /Winds \d/ }).click()
  await expect(page.getByRole('button', { name: 'Settings of Orla’s flute' })).toBeHidden()
  await page.getByText('Set-ups', { exact: true }).click()
  await page.getByLabel('Name for this set-up').fill('Harbour six')
  await page.getByRole('button', { name: 'Save this set-up' }).click()
  await expect(page.getByText('Harbour six')).toBeVisible()
  await page.goto('/')
  await page.getByLabel('A new piece is set up with').selectOption({ label: 'the set-up “Harbour six”' })
  await page.getByRole('button', { name: /^New piece Starts/ }).click()
  await expect(page.getByRole('region', { name: 'Who plays' })).toBeVisible()
  await expect(page.locator('[data-track]')).toHaveCount(7)
  await expect(page.getByRole('button', { name: /Winds \d/ })).toHaveAttribute('aria-expanded', 'false')
  await recordUntil(page, 1, 3)
  await expect(account(page)).toContainText(/Take 1: (\d+) notes heard, \1 on tracks/)
})

test('a MIDI file plays as a player', async ({ page }) => {
  await newPiece(page)
  await page
    .getByLabel('MIDI file that plays')
    .setInputFiles({ name: 'two parts.mid', mimeType: 'audio/midi', buffer: twoParts() })
  await expect(page.locator('[data-source]')).toHaveCount(3)
  await recordUntil(page, 2, 3)
  await expect(account(page)).toContainText(/Take 1: (\d+) notes heard, \1 on tracks/)
  await saved(page)
  await page.reload()
  await goTo(page, 'Players')
  await page.getByRole('button', { name: 'Let them play' }).click()
  await expect(page.locator('[data-source]').nth(1)).toContainText(/[A-G]♭?♯?\d/)
  await page.getByLabel('MIDI file that plays').setInputFiles({
    name: 'broken.mid',
    mimeType: 'audio/midi',
    buffer: Buffer.from('this is no music'),
  })
  await expect(alert(page)).toContainText('“broken.mid” cannot play, and nothing was changed')
})

test('a newcomer: from an empty project to a recorded take of six players with three presses', async ({
  page,
}) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 2)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(account(page)).toContainText(/Take 1: (\d\d+) notes heard, \1 on tracks/)
  await expect(page.getByText(/events as played · on 6 tracks/)).toBeVisible()
})

/** A Standard MIDI File of two tracks, made by hand as the specification says: 96 ticks to the quarter. */
function twoParts(): Buffer {
  const track = (channel: number, keys: readonly number[]) => {
    const notes = keys.flatMap((key) => [0, 0x90 | channel, key, 80, 96, 0x80 | channel, key, 64])
    const body = [...notes, 0, 0xff, 0x2f, 0]
    const head = Buffer.from([0x4d, 0x54, 0x72, 0x6b, 0, 0, body.length >> 8, body.length & 0xff])
    return Buffer.concat([head, Buffer.from(body)])
  }
  const head = Buffer.from([0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 1, 0, 2, 0, 96])
  const keys = [60, 62, 64, 65, 67, 69, 71, 72]
  return Buffer.concat([
    head,
    track(0, keys),
    track(
      1,
      keys.map((key) => key - 12),
    ),
  ])
}

test('the very first note of a keyboard, while a track waits for whoever plays, is for that track alone', async ({
  page,
}) => {
  await withMidiPorts(page, [{ id: 'keys', name: 'Grey keyboard' }])
  await newPiece(page)
  await page
    .getByRole('button', { name: /^Assign .* by playing$/ })
    .first()
    .click()
  await play(page, 'keys', [0x90, 60, 80], [0x80, 60, 0])
  await expect(page.locator('[data-source]').filter({ hasText: 'Grey keyboard' })).toHaveCount(1)
  await expect(page.locator('[data-track]')).toHaveCount(1)
  await expect(page.locator('[data-track]').getByLabel('hears')).toHaveValue(/keys/)
  await expect(page.getByText('drives 2 tracks')).toHaveCount(0)
})

test('a track for everyone who plays: each stream gets one, named, at its first note', async ({ page }) => {
  await withMidiPorts(page, [
    { id: 'a', name: 'Long pier' },
    { id: 'b', name: 'Short pier' },
  ])
  await newPiece(page)
  await page.getByRole('checkbox', { name: 'a track for everyone who plays' }).check()
  await play(page, 'a', [0x90, 60, 80], [0x80, 60, 0], [0x93, 62, 80], [0x83, 62, 0])
  await play(page, 'b', [0x90, 64, 80], [0x80, 64, 0])
  for (const name of ['Long pier, channel 1', 'Long pier, channel 4', 'Short pier, channel 1'])
    await expect(
      page.getByRole('region', { name: 'Where it goes' }).getByRole('heading', { name }),
    ).toBeVisible()
  await expect(remarks(page)).toHaveCount(0)
})

test('one key silences everything: whatever went out on a port is ended there', async ({ page }) => {
  await withMidiPorts(page, [{ id: 'out', name: 'Tone box' }])
  await openDemo(page)
  await openWays(page, 'Benno’s piano')
  await page.getByLabel('also sends to').selectOption({ label: 'Tone box' })
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  const sounding = async () => {
    const down = new Set<string>()
    for (const { bytes } of await sentTo(page, 'out')) {
      const [status, key, velocity] = bytes as [number, number, number]
      if ((status & 0xf0) === 0x90 && velocity > 0) down.add(`${status & 0x0f} ${key}`)
      else if ((status & 0xf0) <= 0x90) down.delete(`${status & 0x0f} ${key}`)
    }
    return down.size
  }
  await expect.poll(sounding, { timeout: 20_000 }).toBeGreaterThan(0)
  await page.keyboard.press('Escape')
  await expect.poll(sounding).toBe(0)
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
})

test('listening can be switched off: then nothing played outside a recording is kept', async ({ page }) => {
  await newPiece(page)
  await goTo(page, 'Record')
  await page.getByText('Always listening').first().click()
  await page.getByRole('checkbox', { name: 'remember what is played outside takes' }).uncheck()
  await goTo(page, 'Players')
  await page.keyboard.press('a')
  await expect(page.locator('[data-source="computer-keyboard"]')).toContainText('C4')
  await expect(page.getByRole('group', { name: 'Always listening' })).toBeHidden()
})
