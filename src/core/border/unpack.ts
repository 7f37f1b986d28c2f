import { Unzip, UnzipInflate } from 'fflate'
import { FileProblem } from './fileProblem'
import { joinBytes } from './joinBytes'

/** So much of an archive is unpacked before it is looked at how much came out of it: deflate makes a thousand times as much at most. */
const pieceBytes = 16 * 1024

/**
 * Unpacks a zip archive, and no more of it than is allowed, whatever it says of sizes.
 *
 * Format: ZIP File Format Specification (PKWARE APPNOTE); inflating by RFC 1951.
 *
 * @param mostBytes of all files together, unpacked
 * @param isWanted which files are unpacked, by their name
 * @returns files by their name in the archive
 * @throws FileProblem when it would be more, or is no archive that can be unpacked
 */
export function unpack(
  bytes: Uint8Array,
  mostBytes: number,
  isWanted: (name: string) => boolean = () => true,
): Record<string, Uint8Array> {
  const parts = new Map<string, Uint8Array[]>()
  let totalBytes = 0
  let files = 0
  let unfinished = 0
  const archive = new Unzip((file) => {
    files++
    if (!isWanted(file.name)) return
    const own: Uint8Array[] = []
    parts.set(file.name, own)
    unfinished++
    file.ondata = (error, part, isLast) => {
      if (error) throw error
      totalBytes += part.length
      if (totalBytes > mostBytes) throw new TooMuch()
      own.push(part)
      if (isLast) unfinished--
    }
    file.start()
  })
  archive.register(UnzipInflate)
  try {
    for (let at = 0; at < bytes.length; at += pieceBytes)
      archive.push(bytes.subarray(at, at + pieceBytes), at + pieceBytes >= bytes.length)
    if (unfinished > 0) throw new Error('it is cut off')
    if (files === 0 && !isEmptyArchive(bytes)) throw new Error('it is no archive')
  } catch (error) {
    if (error instanceof TooMuch)
      throw new FileProblem(
        `The archive would unpack to more than ${Math.round(mostBytes / 1048576).toLocaleString('en')} MB, more than is taken. Nothing was read`,
      )
    throw new FileProblem(`The archive cannot be unpacked: ${(error as Error).message}`)
  }
  return Object.fromEntries([...parts].map(([name, own]) => [name, joinBytes(own)]))
}

class TooMuch extends Error {}

/** The end of an archive, with no file before it. */
const isEmptyArchive = ([p, k, five, six]: Uint8Array) => p === 0x50 && k === 0x4b && five === 5 && six === 6
