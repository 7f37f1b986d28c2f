import { unzipSync } from 'fflate'
import { FileProblem } from './fileProblem'

/**
 * Unpacks a zip archive, if its directory says that no more than is allowed comes out of it.
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
  let total = 0
  try {
    return unzipSync(bytes, {
      filter({ name, originalSize }) {
        if (!isWanted(name)) return false
        total += originalSize
        if (total > mostBytes) throw new TooMuch()
        return true
      },
    })
  } catch (error) {
    if (error instanceof TooMuch)
      throw new FileProblem(
        `The archive would unpack to more than ${Math.round(mostBytes / 1048576).toLocaleString('en')} MB, more than is taken. Nothing was read`,
      )
    throw new FileProblem('The archive cannot be unpacked: it is damaged')
  }
}

class TooMuch extends Error {}
