import type { SaveState } from './autosave'

/** What is asked about before a piece is left, in words; empty where everything is stored. */
export function unstoredWords(piece: {
  readonly save: SaveState
  readonly isJournalBehind: boolean
  readonly isSoundUnstored: boolean
  readonly isRecording: boolean
  /** Everything up to now was saved to a file. */
  readonly isInFile: boolean
}): string[] {
  const { save } = piece
  const words: string[] = []
  if (save.state === 'failed' && !piece.isInFile)
    words.push(`what was changed since ${new Date(save.sinceMs).toLocaleTimeString()}`)
  if (save.state === 'conflict' && !piece.isInFile) words.push('what was changed here after another tab did')
  if (piece.isJournalBehind && (piece.isRecording || !piece.isInFile)) words.push('what was played last')
  if (piece.isSoundUnstored) words.push('the sound of what was played last')
  return words
}
