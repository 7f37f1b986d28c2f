import { strToU8, zipSync } from 'fflate'

const container =
  '<?xml version="1.0" encoding="UTF-8"?>\n<container><rootfiles><rootfile full-path="score.musicxml" media-type="application/vnd.recordare.musicxml+xml"/></rootfiles></container>'

/**
 * Packs MusicXML into a compressed file (.mxl): a zip archive whose META-INF/container.xml names the score.
 *
 * Source: MusicXML 3.0, "Compressed .MXL files".
 */
export function compressMusicXml(musicXml: string): Uint8Array {
  return zipSync(
    { 'META-INF/container.xml': strToU8(container), 'score.musicxml': strToU8(musicXml) },
    // A fixed date makes equal scores equal files.
    { level: 6, mtime: new Date('2000-01-01T00:00:00Z') },
  )
}
