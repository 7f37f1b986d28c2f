import { zipSync } from 'fflate'

/**
 * Files in one zip archive, in their order. Of two with the same name the second gets a number, so that none covers another.
 *
 * @example packFiles([{ fileName: 'a.mid', bytes }, { fileName: 'a.mid', bytes }]) // a.mid and a 2.mid
 */
export function packFiles(
  files: readonly { readonly fileName: string; readonly bytes: Uint8Array }[],
): Uint8Array {
  const entries: Record<string, Uint8Array> = {}
  for (const { fileName, bytes } of files) {
    const dot = fileName.lastIndexOf('.')
    const [stem, ending] = dot > 0 ? [fileName.slice(0, dot), fileName.slice(dot)] : [fileName, '']
    let name = fileName
    for (let count = 2; Object.hasOwn(entries, name); count++) name = `${stem} ${count}${ending}`
    entries[name] = bytes
  }
  // A fixed date makes the same files the same archive.
  return zipSync(entries, { level: 6, mtime: new Date('2000-01-01T00:00:00Z') })
}
