/** Longest name of anything: a piece, a player, a track. More is a mistake or an attack. */
export const longestName = 200

/** Longest identifier of a port that is kept as it is. */
export const longestPortId = 300

/**
 * A text cut to a length, without a half character at its end.
 *
 * @param most in UTF-16 code units, as `length` counts
 */
export function bounded(text: string, most: number): string {
  if (text.length <= most) return text
  const cut = text.slice(0, most)
  return /[\ud800-\udbff]$/.test(cut) ? cut.slice(0, -1) : cut
}

/** A text as it is shown where there is little room: what is cut is told by an ellipsis. */
export function shortened(text: string, most: number): string {
  return text.length <= most ? text : `${bounded(text, most - 1)}…`
}

/** A name that can be kept. */
export function boundedName(text: string): string {
  return bounded(text, longestName)
}

/**
 * A name with words behind it that tell it from another: where both are too long together the name is cut, not the words.
 *
 * @example nameWith('Flute', ' copy') // 'Flute copy'
 */
export function nameWith(name: string, words: string): string {
  return bounded(name, Math.max(0, longestName - words.length)) + bounded(words, longestName)
}

/** An identifier of a port that can be kept: a long one is cut, and told from others by a number made of all of it. */
export function boundedPortId(id: string): string {
  if (id.length <= longestPortId) return id || 'unnamed'
  return `${bounded(id, longestPortId - 10)}~${fingerprint(id)}`
}

/** FNV-1a, 32 bits (G. Fowler, L. C. Noll, K.-P. Vo), as text. */
function fingerprint(text: string): string {
  let hash = 0x811c9dc5
  for (let index = 0; index < text.length; index++)
    hash = Math.imul(hash ^ text.charCodeAt(index), 0x01000193) >>> 0
  return hash.toString(36)
}
