import { strFromU8, strToU8, zipSync } from 'fflate'
import { z } from '../border/checks'
import { FileProblem } from '../border/fileProblem'
import { unpack } from '../border/unpack'
import type { TakeEvents } from '../capture/takeEvents'
import { type ClipContent, contentOf, headOf, joinProject, readClipContent } from '../project/content'
import { ProjectFormatError, readProjectHead } from '../project/migrate'
import type { AsidePart } from '../project/salvage'
import type { Project } from '../project/schema'
import { portIdSchema } from '../routing/address'
import type { KeptOutline } from '../sound/keptSound'

/**
 * An archive that unpacks to more than this is not opened, and none is written: about five hours of the sound of four players who are
 * silent half of the time. All of it is in memory while it is read.
 */
export const largestUnpackedBytes = 1536 * 1024 * 1024

export interface ProjectFile {
  readonly project: Project
  readonly takes: readonly { readonly takeSerial: number; readonly events: TakeEvents }[]
  /** Files kept with the project, as they were brought in. */
  readonly assets: readonly { readonly assetId: string; readonly bytes: Uint8Array }[]
  /** The sound that takes were made of, where it goes with them. */
  readonly sounds: readonly KeptSound[]
}

/** A piece of the sound of a player, and the FLAC file it is stored as. */
export interface KeptSound {
  readonly outline: KeptOutline
  readonly flac: Uint8Array
}

/**
 * Packs a project into one file: a zip archive of JSON, open to anybody.
 *
 * - `project.json`: the project without its notes
 * - `clips/ID.json`: `{ notes: { count, times, bytes, origins, lines? }, controllers, manuscript? }`, columns as in noteColumns.ts, the
 *   last as in manuscript.ts
 * - `takes/SERIAL.json`: `{ portIds, timesMs, ports, statuses, data1, data2 }`, as played
 * - `assets/ID`: backing tracks and files that play, as they were brought in; named in `project.json`
 * - `sounds/N.flac`: a second of what a player played into an input; `sounds/N.json`: whose, and when, as in keptSound.ts
 *
 * @throws FileProblem where it would be larger than what can be opened again
 */
export function writeProjectFile(file: ProjectFile, mostBytes = largestUnpackedBytes): Uint8Array {
  const entries: Record<string, Uint8Array | [Uint8Array, { level: 0 }]> = {
    'project.json': json(headOf(file.project)),
  }
  for (const track of file.project.tracks)
    for (const clip of track.clips) {
      const { notes, controllers, manuscript } = contentOf(clip)
      entries[`clips/${clip.id}.json`] = json({
        notes: {
          count: notes.count,
          times: [...notes.times],
          bytes: [...notes.bytes],
          origins: [...notes.origins],
          ...(notes.lines && { lines: [...notes.lines] }),
        },
        controllers,
        ...(manuscript && { manuscript }),
      })
    }
  for (const { takeSerial, events } of file.takes)
    entries[`takes/${takeSerial}.json`] = json({
      portIds: events.portIds,
      timesMs: [...events.timesMs],
      ports: [...events.ports],
      statuses: [...events.statuses],
      data1: [...events.data1],
      data2: [...events.data2],
    })
  for (const { assetId, bytes } of file.assets) entries[`assets/${assetId}`] = bytes
  for (const [index, { outline, flac }] of file.sounds.entries()) {
    const { peaks, places, confidences } = outline
    // It is small already.
    entries[`sounds/${index + 1}.flac`] = [flac, { level: 0 }]
    entries[`sounds/${index + 1}.json`] = json({
      ...outline,
      peaks: [...peaks],
      places: [...places],
      confidences: [...confidences],
    })
  }
  const unpackedBytes = Object.values(entries).reduce(
    (sum, entry) => sum + (Array.isArray(entry) ? entry[0] : entry).byteLength,
    0,
  )
  if (unpackedBytes > mostBytes)
    throw new FileProblem(
      `the file would have ${megabytes(unpackedBytes)} MB, and no more than ${megabytes(mostBytes)} MB can be opened again${file.sounds.length > 0 ? '. Save it without the sound, which stays in this browser' : ''}`,
    )
  return zipSync(entries, { level: 6, mtime: new Date('2000-01-01T00:00:00Z') })
}

const integers = z.array(z.number().int())
const clipFileSchema = z.object({
  notes: z.object({
    count: z.number().int().min(0),
    times: integers,
    bytes: integers,
    origins: integers,
    lines: integers.optional(),
  }),
  controllers: z.unknown(),
  manuscript: z.unknown().optional(),
})
const takeFileSchema = z
  .object({
    portIds: z.array(z.string()),
    timesMs: z.array(z.number()),
    ports: integers,
    statuses: integers,
    data1: integers,
    data2: integers,
  })
  .refine((take) =>
    [take.ports, take.statuses, take.data1, take.data2].every(
      (column) => column.length === take.timesMs.length,
    ),
  )

const soundFileSchema = z.object({
  streamId: z.string().max(100),
  portId: portIdSchema,
  startMs: z.number(),
  sampleRate: z.number().int().min(8000).max(384_000),
  sampleCount: z.number().int().min(1).max(384_000),
  firstSample: z.number().int().min(0),
  byteLength: z.number().int().min(1),
  peaks: integers.max(400),
  places: integers.max(400),
  confidences: integers.max(400),
})

/**
 * Unpacks a project file.
 *
 * A damaged part is left out and kept aside, as from storage.
 *
 * @throws ProjectFormatError when it is not one, is newer than this program, or unpacks too large
 */
export function readProjectFile(
  bytes: Uint8Array,
  mostBytes = largestUnpackedBytes,
): ProjectFile & { readonly aside: readonly AsidePart[] } {
  const entries = unpacked(bytes, mostBytes)
  const head = entries['project.json']
  if (!head)
    throw new ProjectFormatError('The archive has no project.json: it is not a project of Unbroken Voice')
  const { project, aside } = joinProject(readProjectHead(parse(head, 'project.json')), (clipId, name) => {
    const entry = entries[`clips/${clipId}.json`]
    if (!entry) throw new ProjectFormatError(`The notes of the clip "${name}" are missing from the file`)
    const clip = clipFileSchema.safeParse(parseOrNull(entry))
    if (!clip.success) throw new ProjectFormatError(`The clip "${name}" is damaged`)
    const { count, times, bytes: noteBytes, origins, lines } = clip.data.notes
    const content: ClipContent['notes'] = {
      count,
      times: Int32Array.from(times),
      bytes: Uint8Array.from(noteBytes),
      origins: Int32Array.from(origins),
      ...(lines && { lines: Uint8Array.from(lines) }),
    }
    const { controllers, manuscript } = clip.data
    return readClipContent(name, { notes: content, controllers, manuscript })
  })
  const lost: AsidePart[] = []
  const takes = project.takes.flatMap((info) => {
    const entry = entries[`takes/${info.serial}.json`]
    if (!entry) return []
    const take = takeFileSchema.safeParse(parseOrNull(entry))
    if (!take.success) {
      const path = `takes/${info.serial}.json`
      lost.push({
        path,
        reason: `The take "${info.name}" is damaged as it was played`,
        value: strFromU8(entry),
      })
      return []
    }
    const { portIds, timesMs, ports, statuses, data1, data2 } = take.data
    return [
      {
        takeSerial: info.serial,
        events: {
          count: timesMs.length,
          portIds,
          timesMs: Float64Array.from(timesMs),
          ports: Uint16Array.from(ports),
          statuses: Uint8Array.from(statuses),
          data1: Uint8Array.from(data1),
          data2: Uint8Array.from(data2),
        },
      },
    ]
  })
  const assets = project.assets.flatMap(({ id, name, byteLength }) => {
    const bytes = entries[`assets/${id}`]
    if (bytes?.byteLength === byteLength) return [{ assetId: id, bytes }]
    const reason = `The file "${name}" that belongs to the project is missing or not whole`
    lost.push({ path: `assets/${id}`, reason, value: null })
    return []
  })
  const sounds: KeptSound[] = []
  for (const [path, entry] of Object.entries(entries)) {
    const number = /^sounds\/(\d+)\.json$/.exec(path)?.[1]
    if (number === undefined) continue
    const sound = soundFileSchema.safeParse(parseOrNull(entry))
    const flac = entries[`sounds/${number}.flac`]
    if (sound.success && flac?.byteLength === sound.data.byteLength) {
      const { peaks, places, confidences } = sound.data
      const outline: KeptOutline = {
        ...sound.data,
        peaks: Uint8Array.from(peaks),
        places: Int16Array.from(places),
        confidences: Uint8Array.from(confidences),
      }
      sounds.push({ outline, flac })
    } else lost.push({ path, reason: 'A second of the sound of a take is missing or damaged', value: null })
  }
  return { project, takes, assets, sounds, aside: [...aside, ...lost] }
}

function unpacked(bytes: Uint8Array, mostBytes: number): Record<string, Uint8Array> {
  try {
    return unpack(bytes, mostBytes)
  } catch (error) {
    throw error instanceof FileProblem ? new ProjectFormatError(error.message) : error
  }
}

const megabytes = (count: number) => Math.ceil(count / 1048576).toLocaleString('en')

function json(value: unknown): Uint8Array {
  return strToU8(JSON.stringify(value))
}

/** Null where it is not JSON. */
function parseOrNull(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(strFromU8(bytes))
  } catch {
    return null
  }
}

function parse(bytes: Uint8Array, name: string): unknown {
  try {
    return JSON.parse(strFromU8(bytes))
  } catch {
    throw new ProjectFormatError(`${name} inside the file is not JSON`)
  }
}
