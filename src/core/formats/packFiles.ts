import { type Zippable, zipSync } from 'fflate'

/** Names of files in their order; of two that are the same the second gets a number. */
export function distinctNames(fileNames: readonly string[]): string[] {
  const used = new Set<string>()
  return fileNames.map((fileName) => {
    const dot = fileName.lastIndexOf('.')
    const [stem, ending] = dot > 0 ? [fileName.slice(0, dot), fileName.slice(dot)] : [fileName, '']
    let name = fileName
    for (let count = 2; used.has(name); count++) name = `${stem} ${count}${ending}`
    used.add(name)
    return name
  })
}

/**
 * Files in one zip archive, in their order. Of two with the same name the second gets a number, so that none covers another.
 *
 * @example packFiles([{ fileName: 'a.mid', bytes }, { fileName: 'a.mid', bytes }]) // a.mid and a 2.mid
 */
export function packFiles(
  files: readonly { readonly fileName: string; readonly bytes: Uint8Array }[],
): Uint8Array {
  const names = distinctNames(files.map(({ fileName }) => fileName))
  const entries: Zippable = {}
  for (const [index, { bytes }] of files.entries()) {
    const name = names[index]!
    // Sound, pages and archives are packed already, or do not get smaller.
    entries[name] = /\.(wav|pdf|mxl|voice)$/.test(name) ? [bytes, { level: 0 }] : bytes
  }
  // A fixed date makes the same files the same archive.
  return zipSync(entries, { level: 6, mtime: new Date('2000-01-01T00:00:00Z') })
}
