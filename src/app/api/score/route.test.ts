import { execFileSync } from 'node:child_process'
import { createDemo } from '@/core/demo/harbourEvening'
import { projectToMidi } from '@/core/formats/projectToMidi'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { closeScorePool } from '@/server/scorePool'
import { POST } from './route'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const midi = writeMidiFile(projectToMidi(demo, demo.tracks, 480))
const post = (body: Uint8Array, query = '') =>
  POST(new Request(`http://localhost/api/score${query}`, { method: 'POST', body: body as BodyInit }))

/** One note at a quarter, in a file made by hand. */
function noteAtQuarter(quarter: number): Uint8Array {
  const events = [
    { tick: quarter, type: 'noteOn' as const, channel: 1, key: 60, velocity: 80 },
    { tick: quarter + 1, type: 'noteOff' as const, channel: 1, key: 60, velocity: 64 },
  ]
  return writeMidiFile({ format: 0, divisionTicksPerQuarter: 1, tracks: [{ events, endTick: quarter + 1 }] })
}

/** Notes one after the other. */
function manyNotes(count: number): Uint8Array {
  const events = Array.from({ length: count }, (_, index) => [
    { tick: index, type: 'noteOn' as const, channel: 1, key: 40 + (index % 40), velocity: 80 },
    { tick: index + 1, type: 'noteOff' as const, channel: 1, key: 40 + (index % 40), velocity: 64 },
  ]).flat()
  return writeMidiFile({ format: 0, divisionTicksPerQuarter: 4, tracks: [{ events, endTick: count }] })
}

beforeAll(() => execFileSync('node', ['scripts/build-threads.mjs']))
afterAll(closeScorePool)

describe('POST /api/score', () => {
  test('a MIDI file in, MusicXML and its account out', async () => {
    const response = await post(midi, '?split=C4&grid=16')
    expect(response.status).toBe(200)
    expect(await response.text()).toContain('<part-name>Orla’s flute</part-name>')
    expect(JSON.parse(response.headers.get('X-Note-Account')!)).toMatchObject({ captured: 255, written: 255 })
  })

  test('compressed on request', async () => {
    const response = await post(midi, '?format=mxl')
    expect([...new Uint8Array(await response.arrayBuffer()).slice(0, 2)]).toEqual([0x50, 0x4b])
  })

  test.each([
    ['mei', 'application/mei+xml', /^<\?xml[\s\S]*<mei /],
    ['abc', 'text/vnd.abc', /^%abc-2\.1\nX:1\n/],
    ['svg', 'image/svg+xml', /^<svg /],
    ['pdf', 'application/pdf', /^%PDF-/],
    ['ogg', 'audio/ogg', /^OggS/],
  ])('as %s', async (format, type, begins) => {
    const response = await post(noteAtQuarter(240), `?format=${format}`)
    expect(response.status).toBe(200)
    expect(response.headers.get('Content-Type')).toContain(type)
    const body = Buffer.from(await response.arrayBuffer()).toString('latin1')
    expect(body.slice(0, 2000)).toMatch(begins)
    expect(JSON.parse(response.headers.get('X-Note-Account')!)).toMatchObject({ written: 1 })
  })

  test.each([
    ['nothing', new Uint8Array(0), '', 400, /empty/],
    ['no MIDI file', new Uint8Array(50), '', 400, /not a Standard MIDI File/],
    ['a wrong option', midi, '?grid=9', 400, /--grid takes/],
    ['an unknown option', midi, '?mood=calm', 400, /no option "mood"/],
    ['an option named like nothing else', midi, '?__proto__=1', 400, /no option "__proto__"/],
    ['an option twice', midi, '?split=C4&split=hands', 400, /"split" is given more than once/],
    ['an unknown format', midi, '?format=doc', 400, /format takes mid, musicxml, .*ogg/],
    ['20 MB', new Uint8Array(20 * 1024 * 1024), '', 413, /up to 8 MB/],
    [
      'a note at quarter 268,435,455',
      Uint8Array.from(
        Buffer.from('4d546864000000060000000100014d54726b0000000fffffff7f903c5001803c4000ff2f00', 'hex'),
      ),
      '',
      400,
      /A note lies at quarter 268,435,457; pieces of up to 198,412 quarters/,
    ],
    ['a note at quarter 1,000,000', noteAtQuarter(1_000_000), '', 400, /quarter 1,000,002/],
    ['a note in bar 30,001', noteAtQuarter(120_000), '', 400, /bar 30,001; scores of up to 20,000 bars/],
    ['150,001 notes', manyNotes(150_001), '', 400, /150,001 notes; up to 150,000 are taken/],
    ['more events than are held', manyNotes(500_001), '', 400, /more events than can be written/],
  ])('%s is refused', async (_, body, query, status, message) => {
    const response = await post(body, query)
    expect(response.status).toBe(status)
    expect((await response.json()).error).toMatch(message)
  })

  test('while scores are written the server goes on with other things, and too many at once are sent away', async () => {
    let turns = 0
    let isDone = false
    const turn = () => {
      turns++
      if (!isDone) setImmediate(turn)
    }
    turn()
    const bytes = manyNotes(4_000)
    const answers = await Promise.all(Array.from({ length: 24 }, () => post(bytes)))
    isDone = true
    const statuses = answers.map(({ status }) => status)
    expect(new Set(statuses)).toEqual(new Set([200, 503]))
    expect(statuses.filter((status) => status === 200).length).toBeGreaterThanOrEqual(16)
    const sentAway = answers.find(({ status }) => status === 503)!
    expect(sentAway.headers.get('Retry-After')).toBe('5')
    expect((await sentAway.json()).error).toMatch(/Too many scores/)
    // On the server's own thread each score would be one turn.
    expect(turns).toBeGreaterThan(500)
  })
})
