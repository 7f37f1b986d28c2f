import { createDemo } from '@/core/demo/harbourEvening'
import { projectToMidi } from '@/core/formats/projectToMidi'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { POST } from './route'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const midi = writeMidiFile(projectToMidi(demo, demo.tracks, 480))
const post = (body: Uint8Array, query = '') =>
  POST(new Request(`http://localhost/api/score${query}`, { method: 'POST', body: body as BodyInit }))

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
    ['nothing', new Uint8Array(0), '', 400, /empty/],
    ['no MIDI file', new Uint8Array(50), '', 400, /not a Standard MIDI File/],
    ['a wrong option', midi, '?grid=9', 400, /--grid takes/],
    ['an unknown option', midi, '?mood=calm', 400, /no option "mood"/],
    ['an unknown format', midi, '?format=pdf', 400, /format takes/],
    ['20 MB', new Uint8Array(20 * 1024 * 1024), '', 413, /up to 16 MB/],
  ])('%s is refused', async (_, body, query, status, message) => {
    const response = await post(body, query)
    expect(response.status).toBe(status)
    expect((await response.json()).error).toMatch(message)
  })
})
