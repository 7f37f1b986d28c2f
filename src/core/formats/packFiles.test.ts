import { unzipSync } from 'fflate'
import { packFiles } from './packFiles'

test('every file is in the archive whole, also those of one name', () => {
  const files = ['a.mid', 'b.mid', 'a.mid', 'a.mid', 'plain', 'plain'].map((fileName, index) => ({
    fileName,
    bytes: Uint8Array.of(index, index, index),
  }))
  const unpacked = unzipSync(packFiles(files))
  expect(Object.keys(unpacked)).toEqual(['a.mid', 'b.mid', 'a 2.mid', 'a 3.mid', 'plain', 'plain 2'])
  expect(Object.values(unpacked).map((bytes) => bytes[0])).toEqual([0, 1, 2, 3, 4, 5])
})
