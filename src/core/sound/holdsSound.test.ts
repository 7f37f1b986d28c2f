import { holdsSound, tellingBytes } from './holdsSound'
import { writeWav } from './wav'

const begins = (text: string) =>
  Uint8Array.from(text.padEnd(tellingBytes, '\0').slice(0, tellingBytes), (letter) => letter.charCodeAt(0))

describe('whether a file is sound', () => {
  test('by how it begins, whatever it is called', () => {
    const wav = writeWav(new Float32Array(9), 44_100, 16)
    expect(holdsSound(wav.subarray(0, tellingBytes), 'take one')).toBe(true)
    for (const head of [
      'fLaC',
      'OggS',
      'ID3\x04',
      '\0\0\0 ftypM4A ',
      'FORM....AIFF',
      '\xff\xfb\x90',
      '\x1a\x45\xdf\xa3',
    ])
      expect([head, holdsSound(begins(head), 'x')]).toEqual([head, true])
    // Notes, also with the ending of a sound: systems call a MIDI file audio.
    for (const head of ['MThd\0\0\0\x06', 'RIFF....RMID', 'PK\x03\x04', '<?xml version', '\n <mei '])
      expect([head, holdsSound(begins(head), 'x.wav')]).toEqual([head, false])
  })

  test('by its name where it begins like nothing known', () => {
    expect(holdsSound(begins('no sound'), 'Evening.MP3')).toBe(true)
    expect(holdsSound(begins('X:1\nT:Bell'), 'bell.abc')).toBe(false)
    expect(holdsSound(begins('\xff\xfeX\0'), 'words.txt')).toBe(false)
    expect(holdsSound(new Uint8Array(0), 'nothing.mid')).toBe(false)
  })
})
