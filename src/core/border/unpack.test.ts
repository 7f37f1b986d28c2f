import fc from 'fast-check'
import { zipSync } from 'fflate'
import { unpack } from './unpack'

const mega = 1024 * 1024

test('any files come back as they were, packed or as they are', () => {
  const file = fc.uint8Array({ maxLength: 3000 })
  const names = fc.string({ minLength: 1, maxLength: 12 }).filter((name) => !/[\0/]|__proto__/.test(name))
  fc.assert(
    fc.property(
      fc.dictionary(names, file, { maxKeys: 5, noNullPrototype: true }),
      fc.constantFrom(0, 6),
      (files, level) => {
        const bytes = zipSync(files, { level: level as 0 | 6 })
        const back = unpack(bytes, mega)
        expect(Object.keys(back).sort()).toEqual(Object.keys(files).sort())
        for (const [name, content] of Object.entries(files)) expect([...back[name]!]).toEqual([...content])
      },
    ),
  )
})

test('what is no archive, or cut off, is said to be damaged; of others only what is wanted is unpacked', () => {
  const bytes = zipSync({ a: new Uint8Array(5000).fill(7), b: new Uint8Array(50) })
  expect(Object.keys(unpack(bytes, mega, (name) => name === 'b'))).toEqual(['b'])
  for (const cut of [10, 34, 36])
    expect(() => unpack(bytes.subarray(0, cut), mega)).toThrow('cannot be unpacked')
  expect(() => unpack(new Uint8Array(500), mega)).toThrow('cannot be unpacked')
})
