import { compressMusicXml } from '@/core/formats/compressedMusicXml'
import { ImportError } from '@/core/formats/midiToProject'
import { writeMusicXml } from '@/core/formats/musicXml'
import { OptionError, parseScoreOptions, scoreFromMidi } from '@/core/formats/scoreFromMidi'
import { largestMidiFileBytes, MidiFileError } from '@/core/midi/standardMidiFile/model'

const optionNames = ['split', 'grid', 'tuplets', 'min-velocity', 'min-length-ms', 'chord-window-ms']

/**
 * A Standard MIDI File in the body, MusicXML in the answer. Options are query parameters with the names of the
 * command's: `POST /api/score?split=C4&grid=16`. `format=mxl` asks for the compressed form. The account of the notes is
 * in the header `X-Note-Account`, as JSON.
 */
export async function POST(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams
  try {
    for (const name of query.keys())
      if (!optionNames.includes(name) && name !== 'format')
        return problem(400, `There is no option "${name}"`)
    const format = query.get('format') ?? 'musicxml'
    if (format !== 'musicxml' && format !== 'mxl') return problem(400, 'format takes musicxml or mxl')
    const settings = parseScoreOptions(Object.fromEntries(query))
    const announced = Number(request.headers.get('content-length') ?? 0)
    if (announced > largestMidiFileBytes) return tooLarge()
    const bytes = await readLimited(request)
    if (!bytes) return tooLarge()
    const { score, report } = scoreFromMidi(bytes, 'Score', settings)
    const musicXml = writeMusicXml(score)
    const headers = { 'X-Note-Account': JSON.stringify(report).replace(/[^\x20-\x7e]/g, '?') }
    return format === 'mxl'
      ? new Response(compressMusicXml(musicXml) as BodyInit, {
          headers: { ...headers, 'Content-Type': 'application/vnd.recordare.musicxml' },
        })
      : new Response(musicXml, {
          headers: { ...headers, 'Content-Type': 'application/vnd.recordare.musicxml+xml; charset=utf-8' },
        })
  } catch (error) {
    if (error instanceof MidiFileError || error instanceof ImportError || error instanceof OptionError)
      return problem(400, error.message)
    throw error
  }
}

/** Reads the body up to the limit; null when there is more. */
async function readLimited(request: Request): Promise<Uint8Array | null> {
  const chunks: Uint8Array[] = []
  let length = 0
  for await (const chunk of (request.body ?? new Blob([]).stream()) as unknown as AsyncIterable<Uint8Array>) {
    length += chunk.length
    if (length > largestMidiFileBytes) return null
    chunks.push(chunk)
  }
  const bytes = new Uint8Array(length)
  let at = 0
  for (const chunk of chunks) {
    bytes.set(chunk, at)
    at += chunk.length
  }
  return bytes
}

function tooLarge(): Response {
  return problem(413, `MIDI files up to ${largestMidiFileBytes / 1048576} MB are read`)
}

function problem(status: number, error: string): Response {
  return Response.json({ error }, { status })
}
