/** Thread colours, like natural dyes; each at least 4.6:1 on paper and desk. Indexed by a track's thread. */
const dyes = [
  { name: 'madder', colour: '#A8372B' },
  { name: 'indigo', colour: '#2F4C8C' },
  { name: 'verdigris', colour: '#1C7466' },
  { name: 'weld', colour: '#8A6500' },
  { name: 'plum', colour: '#7B3F73' },
  { name: 'walnut', colour: '#6B4A2B' },
  { name: 'moss', colour: '#566A1B' },
  { name: 'slate', colour: '#475C70' },
] as const

/** Line patterns: the ninth voice starts again with the first colour and the next pattern. */
const patterns: readonly (readonly number[])[] = [[], [9, 4], [2, 4], [12, 4, 2, 4]]

export interface Thread {
  readonly name: string
  readonly colour: string
  /** Canvas and SVG dash pattern. */
  readonly dash: readonly number[]
}

export function threadOf(index: number): Thread {
  const dye = dyes[index % dyes.length]!
  return { ...dye, dash: patterns[Math.floor(index / dyes.length) % patterns.length]! }
}
