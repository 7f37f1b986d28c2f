import fc from 'fast-check'
import { zipSync } from 'fflate'
import { unpack } from './unpack'

const mega = 1024 * 1024
type Level = 0 | 6

test('any files come back as they were, packed or as they are', () => {
  const names = fc.string({ minLength: 1, maxLength: 12 }).filter((name) => !/[\0/]|__proto__/.test(name))
  const file = fc.uint8Array({ maxLength: 3000 })
  fc.assert(
    fc.property(
      fc.dictionary(names, file, { maxKeys: 5, noNullPrototype: true }),
      fc.constantFrom<Level>(0, 6),
      (files, level) => {
        const back = unpack(zipSync(files, { level }), mega)
        expect(Object.keys(back).sort()).toEqual(Object.keys(files).sort())
        for (const [name, content] of Object.entries(files)) expect([...back[name]!]).toEqual([...content])
      },
    ),
  )
})

test('thousands of files, and headers that lie across any boundary', () => {
  for (let first = 0; first < 48; first++) {
    const files: Record<string, Uint8Array> = { first: new Uint8Array(16_290 + first).fill(first) }
    for (let index = 0; index < (first === 0 ? 9000 : 20); index++)
      files[`${index}`] = Uint8Array.of(index, 1, 2)
    const back = unpack(zipSync(files, { level: 0 }), mega)
    expect(Object.keys(back).length).toBe(Object.keys(files).length)
    expect(back.first).toEqual(files.first)
    expect(back['19']).toEqual(files['19'])
  }
})

/** An archive of zeros that says at both of its places that there are only ten of them. */
function lying(realBytes: number): Uint8Array {
  const bytes = zipSync({ 'project.json': new Uint8Array(realBytes) }, { level: 9 })
  const view = new DataView(bytes.buffer, bytes.byteOffset)
  for (let at = 0; at + 28 < bytes.length; at++) {
    const signature = view.getUint32(at, true)
    if (signature === 0x04034b50) view.setUint32(at + 22, 10, true)
    if (signature === 0x02014b50) view.setUint32(at + 24, 10, true)
  }
  return bytes
}

test('an archive that lies about its sizes is stopped where too much has come out of it', () => {
  const bytes = lying(64 * mega)
  expect(bytes.length).toBeLessThan(mega)
  expect(() => unpack(bytes, 4 * mega)).toThrow('would unpack to more than 4 MB')
})

test('what is no archive, or is cut off, is said; of others only what is wanted is unpacked', () => {
  const bytes = zipSync({ a: new Uint8Array(5000).fill(7), b: new Uint8Array(50) })
  expect(Object.keys(unpack(bytes, mega, (name) => name === 'b'))).toEqual(['b'])
  expect(unpack(zipSync({}), mega)).toEqual({})
  for (const damaged of [
    new Uint8Array(0),
    new Uint8Array(500),
    ...[10, 34, 36].map((end) => bytes.subarray(0, end)),
  ])
    expect(() => unpack(damaged, mega)).toThrow('cannot be unpacked')
})
