/**
 * The engraving library gives a change of key in a line to all staves as the first part has it. Where parts are written in keys of
 * their own (transposing instruments, percussion), each staff is told its own.
 *
 * Source: MEI 5.0, `scoreDef` within a section with a `staffDef` for each staff.
 */
interface KeyChange {
  /** Number of the staff in the line, from 1. */
  readonly staff: number
  readonly fifths: number
}

/** Changes of key within a line of MusicXML, by the number of their bar; empty where all staves change alike. */
export function keysOfStaves(musicXml: string): ReadonlyMap<string, readonly KeyChange[]> {
  const changes = new Map<string, KeyChange[]>()
  let firstStaff = 1
  for (const [part] of musicXml.matchAll(/<part id=[\s\S]*?<\/part>/g)) {
    const staves = Number(/<staves>(\d+)<\/staves>/.exec(part)?.[1] ?? 1)
    for (const [index, measure] of part.split('<measure ').slice(1).entries()) {
      const number = /^number="([^"]*)"/.exec(measure)?.[1]
      const fifths = /<key><fifths>(-?\d+)<\/fifths>/.exec(measure)?.[1]
      if (index === 0 || number === undefined || fifths === undefined) continue
      const known = changes.get(number) ?? []
      for (let staff = 0; staff < staves; staff++)
        known.push({ staff: firstStaff + staff, fifths: Number(fifths) })
      changes.set(number, known)
    }
    firstStaff += staves
  }
  for (const [number, known] of changes) {
    const isAlike = known.every(({ fifths }) => fifths === known[0]!.fifths)
    if (isAlike && known.length === firstStaff - 1) changes.delete(number)
  }
  return changes
}

/** The line as the library reads it (MEI), with the keys of each staff in place of one for all. */
export function withKeysOfStaves(mei: string, changes: ReadonlyMap<string, readonly KeyChange[]>): string {
  return mei.replace(
    /(?:<scoreDef\b[^>]*>((?:(?!<\/scoreDef>)[\s\S])*)<\/scoreDef>\s*)?(<measure\b[^>]*\bn="([^"]*)")/g,
    (whole: string, told: string | undefined, measure: string, number: string) => {
      const own = changes.get(number)
      if (!own) return whole
      const others = (told ?? '').replace(/<keySig\b[^>]*\/>/g, '')
      const staves = own.map(
        ({ staff, fifths }) => `<staffDef n="${staff}"><keySig sig="${sigOf(fifths)}"/></staffDef>`,
      )
      return `<scoreDef>${others}<staffGrp>${staves.join('')}</staffGrp></scoreDef>${measure}`
    },
  )
}

const sigOf = (fifths: number) => (fifths === 0 ? '0' : `${Math.abs(fifths)}${fifths > 0 ? 's' : 'f'}`)
