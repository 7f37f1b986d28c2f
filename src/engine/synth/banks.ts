/** Id of the bank with a General MIDI program (from 0), and of the drum kit's; also its file name without ending. */
export function bankId(instrument: number | 'drums'): string {
  return instrument === 'drums' ? 'drums' : `program-${String(instrument).padStart(3, '0')}`
}
