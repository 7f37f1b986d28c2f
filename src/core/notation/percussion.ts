/** Where a percussion key is written on a five-line staff (treble positions), and with which notehead. */
export interface PercussionPlace {
  readonly step: 'A' | 'B' | 'C' | 'D' | 'E' | 'F' | 'G'
  readonly octave: number
  readonly notehead: 'normal' | 'x' | 'diamond' | 'triangle'
}

type Row = readonly [keys: readonly number[], place: PercussionPlace]

const at = (
  step: PercussionPlace['step'],
  octave: number,
  notehead: PercussionPlace['notehead'] = 'normal',
) => ({
  step,
  octave,
  notehead,
})

/** Customary drum-kit places by General MIDI percussion key. Common practice, no source. */
const rows: readonly Row[] = [
  [[35], at('E', 4)],
  [[36], at('F', 4)],
  [[37], at('C', 5, 'x')],
  [[38, 40, 39], at('C', 5)],
  [[41], at('G', 4)],
  [[43], at('A', 4)],
  [[45], at('B', 4)],
  [[47], at('D', 5)],
  [[48], at('E', 5)],
  [[50], at('F', 5)],
  [[42, 46], at('G', 5, 'x')],
  [[44], at('D', 4, 'x')],
  [[49, 52, 55, 57], at('A', 5, 'x')],
  [[51, 59], at('F', 5, 'x')],
  [[53], at('F', 5, 'diamond')],
  [[54, 69, 70, 82], at('G', 5, 'triangle')],
  [[56, 67, 68], at('E', 5, 'triangle')],
]

const places = new Map(rows.flatMap(([keys, place]) => keys.map((key) => [key, place] as const)))

export function percussionPlace(key: number): PercussionPlace {
  return places.get(key) ?? at('B', 4, 'diamond')
}
