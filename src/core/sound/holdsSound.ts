/** Endings of files with sound in them, for what cannot be told by how it begins. */
export const soundEndings = [
  '.wav',
  '.flac',
  '.mp3',
  '.ogg',
  '.oga',
  '.opus',
  '.m4a',
  '.aac',
  '.mp4',
  '.webm',
  '.aif',
  '.aiff',
] as const

/** So many bytes tell what a file is. */
export const tellingBytes = 12

/** The container of WebM. */
const isEbml = (head: Uint8Array) => [0x1a, 0x45, 0xdf, 0xa3].every((byte, index) => head[index] === byte)

/**
 * Whether a file is sound, by how it begins, whatever it is called: WAV, AIFF, FLAC, Ogg, MP3, MPEG-4 or WebM. What begins like none of
 * them, nor like a file of notes, is believed by its name, so that who reads it can say what is wrong with it.
 *
 * @param head its first `tellingBytes`
 */
export function holdsSound(head: Uint8Array, fileName: string): boolean {
  const text = String.fromCharCode(...head.subarray(0, tellingBytes))
  const [first = 0, second = 0] = head
  if (text.startsWith('RIFF') || text.startsWith('RF64')) return text.slice(8) === 'WAVE'
  if (text.startsWith('FORM')) return text.slice(8, 11) === 'AIF'
  if (/^(fLaC|OggS|ID3|.{4}ftyp)/s.test(text)) return true
  if (isEbml(head)) return true
  // Frames of MPEG audio, without a tag before them; a byte order mark is none.
  if (first === 0xff && (second & 0xe0) === 0xe0 && second !== 0xfe) return true
  if (/^(MThd|PK|\s*<)/.test(text)) return false
  return soundEndings.some((ending) => fileName.toLowerCase().endsWith(ending))
}
