/** How wide letters are on average, of their size: rather too wide, so that nothing leaves the page. */
const letterShare = 0.6

/** So many letters have room. */
export function lettersWithin(widthPt: number, sizePt: number): number {
  return Math.max(1, Math.floor(widthPt / (letterShare * sizePt)))
}

/**
 * Words in lines that have room, broken between words; a word that is longer than a line is broken where the line ends.
 *
 * @example wrapWords('Lamps on the Ebb', 10, 60) // ['Lamps on', 'the Ebb']
 */
export function wrapWords(text: string, sizePt: number, widthPt: number): string[] {
  const most = lettersWithin(widthPt, sizePt)
  const lines: string[] = []
  let line: string[] = []
  const close = () => {
    if (line.length > 0) lines.push(line.join(''))
    line = []
  }
  for (const word of text.split(/\s+/).filter((each) => each !== '')) {
    const letters = [...word]
    if (line.length > 0 && line.length + 1 + letters.length > most) close()
    if (line.length > 0) line.push(' ')
    for (const letter of letters) {
      if (line.length >= most) close()
      line.push(letter)
    }
  }
  close()
  return lines
}
