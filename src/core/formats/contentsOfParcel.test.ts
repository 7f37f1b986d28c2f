import { createDemo } from '../demo/harbourEvening'
import { contentsOfParcel } from './contentsOfParcel'

test('the list of a parcel tells the piece, its parts with their ranges, and each file with its check', () => {
  const { project } = createDemo('demo', 0, 'keyboard')
  const text = contentsOfParcel({ ...project, composer: 'Ines Quarry' }, [
    { fileName: 'Lamps on the Ebb.musicxml', check: '255 of 255 notes read back the same, by verovio' },
    { fileName: 'Lamps on the Ebb.voice', check: null },
  ])
  for (const wanted of [
    'Lamps on the Ebb\r\n',
    'by Ines Quarry',
    '16 bars, 0 min 4',
    'Tempo: 92 quarters a minute',
    'Meter: 4/4',
    /Orla’s flute +Flute, [A-G].*\d to [A-G].*\d, 63 notes, channel \d/,
    /Lamps on the Ebb\.musicxml +255 of 255/,
    /Lamps on the Ebb\.voice\r\n/,
  ])
    expect(text).toEqual(
      typeof wanted === 'string' ? expect.stringContaining(wanted) : expect.stringMatching(wanted),
    )
})
