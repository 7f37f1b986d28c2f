import { medianMs } from './medianMs'

/** A fixed piece of work of the kinds that the core does most of: numbers in arrays, objects in maps, sorting, text. */
export const processorMs = () => medianMs(fixedWork)

let kept = 0

function fixedWork(): void {
  let state = 1
  const next = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
  const numbers = new Float64Array(600_000)
  for (let index = 0; index < numbers.length; index++) numbers[index] = next()
  for (let pass = 0; pass < 6; pass++)
    for (let index = 2; index < numbers.length; index++)
      numbers[index] = 0.5 * numbers[index]! + 0.3 * numbers[index - 1]! + 0.2 * numbers[index - 2]!
  const notes = Array.from({ length: 60_000 }, (_, id) => ({
    id,
    onset: next(),
    key: Math.floor(next() * 88),
  }))
  notes.sort((a, b) => a.onset - b.onset || a.key - b.key)
  const byKey = new Map<number, typeof notes>()
  for (const note of notes) byKey.set(note.key, [...(byKey.get(note.key) ?? []).slice(-20), note])
  const words = notes.slice(0, 20_000).map(({ id, key }) => `<note id="n${id}"><key>${key}</key></note>`)
  kept += numbers[numbers.length - 1]! + byKey.size + words.join('').length
}

/** Nothing of it is left out by a compiler that sees that nobody asks for it. */
export const yardstickResult = (): number => kept
