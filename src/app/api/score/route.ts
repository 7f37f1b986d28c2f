import { joinBytes } from '@/core/border/joinBytes'
import type { OpeningLimits } from '@/core/formats/openFile'
import { OptionError, parseScoreOptions, scoreOptionNames } from '@/core/formats/scoreFromFile'
import { writtenForms } from '@/core/formats/writtenForms'
import { renderedForms } from '@/rendering/formNames'
import { jsonProblem } from '@/server/jsonProblem'
import { ScorePoolError, writeScore } from '@/server/scorePool'

const forms = [...writtenForms, ...renderedForms]

/** The body is held in memory: more than any piece of that many notes has is not read. */
const largestBodyBytes = 8 * 1024 * 1024

/** What one request may ask for; the batch command takes more. */
const limits: OpeningLimits = {
  mostEvents: 1_000_000,
  mostNotes: 150_000,
  mostUnpackedBytes: 128 * 1024 * 1024,
}

/**
 * A file of any kind that can be opened in the body, another form of it in the answer: MusicXML, or what `format` asks for. Options
 * are query parameters with the names of the command's: `POST /api/score?split=C4&grid=16`. The account of the notes is in the header
 * `X-Note-Account`, as JSON. Status 400: the file or an option is bad; 413: it is too large; 503: try again. All of it is told in
 * docs/files.md.
 */
export async function POST(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams
  try {
    for (const name of query.keys()) {
      if (!scoreOptionNames.some((known) => known === name) && name !== 'format')
        return problem(400, `There is no option "${name}"`)
      if (query.getAll(name).length > 1) return problem(400, `The option "${name}" is given more than once`)
    }
    const format = query.get('format') ?? 'musicxml'
    const form = forms.find((each) => each === format)
    if (!form) return problem(400, `format takes ${forms.join(', ')}`)
    const scoreRequest = parseScoreOptions(Object.fromEntries(query))
    const announced = Number(request.headers.get('content-length') ?? 0)
    if (announced > largestBodyBytes) return tooLarge()
    const bytes = await readLimited(request)
    if (!bytes) return tooLarge()
    const answer = await writeScore({ bytes, request: scoreRequest, form, limits }, clientOf(request))
    if (!answer.isGood) return problem(400, answer.problem)
    return new Response(answer.body as BodyInit, {
      headers: {
        'X-Note-Account': JSON.stringify(answer.report).replace(/[^\x20-\x7e]/g, '?'),
        'Content-Type': answer.mediaType,
      },
    })
  } catch (error) {
    if (error instanceof OptionError) return problem(400, error.message)
    if (error instanceof ScorePoolError) return problem(error.status, error.message)
    throw error
  }
}

/** Whoever asks, as far as it is known. Without a proxy before this that sets it, whoever wants to can say they are another. */
const clientOf = (request: Request) =>
  request.headers.get('x-forwarded-for')?.split(',')[0]?.trim() || 'somebody'

/** Reads the body up to the limit; null when there is more. */
async function readLimited(request: Request): Promise<Uint8Array | null> {
  const chunks: Uint8Array[] = []
  let length = 0
  for await (const chunk of (request.body ?? new Blob([]).stream()) as unknown as AsyncIterable<Uint8Array>) {
    length += chunk.length
    if (length > largestBodyBytes) return null
    chunks.push(chunk)
  }
  return joinBytes(chunks)
}

function tooLarge(): Response {
  return problem(
    413,
    `Files up to ${largestBodyBytes / 1048576} MB are taken here; the batch command takes larger ones`,
  )
}

const problem = (status: number, error: string): Response =>
  jsonProblem(status, error, status === 503 ? { 'Retry-After': '5' } : {})

const notAllowed = ({ method }: Request) =>
  jsonProblem(405, `${method} does nothing here: POST a file`, { Allow: 'POST' })

export {
  notAllowed as DELETE,
  notAllowed as GET,
  notAllowed as HEAD,
  notAllowed as OPTIONS,
  notAllowed as PATCH,
  notAllowed as PUT,
}
