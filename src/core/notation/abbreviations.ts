import { bounded } from '../text/bounded'

/** Customary abbreviations of instruments in scores (common practice), by what their names contain; the more special first. */
const customary: readonly (readonly [name: RegExp, short: string])[] = [
  [/\bpiccolo\b/i, 'Picc.'],
  [/\balto flute\b/i, 'A. Fl.'],
  [/\b(flute|recorder)\b/i, 'Fl.'],
  [/\benglish horn\b|\bcor anglais\b/i, 'E. H.'],
  [/\boboe\b/i, 'Ob.'],
  [/\bbass clarinet\b/i, 'B. Cl.'],
  [/\bclarinet\b/i, 'Cl.'],
  [/\bcontrabassoon\b/i, 'C. Bn.'],
  [/\bbassoon\b/i, 'Bn.'],
  [/\bsax(ophone)?\b/i, 'Sax.'],
  [/\bhorn\b/i, 'Hn.'],
  [/\b(trumpet|cornet|flugelhorn)\b/i, 'Tpt.'],
  [/\btrombone\b/i, 'Tbn.'],
  [/\btuba\b/i, 'Tba.'],
  [/\btimpani\b/i, 'Timp.'],
  [/\b(drums?|drum kit|kit)\b/i, 'Dr.'],
  [/\bpercussion\b/i, 'Perc.'],
  [/\bvibraphone\b/i, 'Vib.'],
  [/\bmarimba\b/i, 'Mar.'],
  [/\bxylophone\b/i, 'Xyl.'],
  [/\bglockenspiel\b/i, 'Glock.'],
  [/\bcelesta\b/i, 'Cel.'],
  [/\bharpsichord\b/i, 'Hpd.'],
  [/\bharp\b/i, 'Hp.'],
  [/\bpiano\b/i, 'Pno.'],
  [/\borgan\b/i, 'Org.'],
  [/\baccordion\b/i, 'Acc.'],
  [/\bguitar\b/i, 'Gtr.'],
  [/\bviolin\b/i, 'Vln.'],
  [/\bviola\b/i, 'Vla.'],
  [/\b(violon)?cello\b/i, 'Vc.'],
  [/\b(double bass|contrabass)\b/i, 'Db.'],
  [/\bbass\b/i, 'B.'],
  [/\bsoprano\b/i, 'S.'],
  [/\balto\b/i, 'A.'],
  [/\btenor\b/i, 'T.'],
  [/\bvoice\b/i, 'V.'],
  [/\bchoir\b/i, 'Ch.'],
  [/\bstrings\b/i, 'Str.'],
]

/** Names that are no longer than this are short already. */
const shortLetters = 5

/**
 * What a part is called on all lines of music but the first: the customary abbreviation of its instrument, with the initial of whoever
 * plays it and the number of the desk; where no instrument is named, the first letters.
 *
 * @example abbreviation('Orla’s flute 2') // "O. Fl. 2"
 */
export function abbreviation(name: string): string {
  const whole = name.trim()
  if (whole.length <= shortLetters) return whole
  const known = customary.find(([pattern]) => pattern.test(whole))
  const number = /\b(\d+|I{1,3}|IV|V)$/.exec(whole)?.[1]
  const behind = number === undefined ? '' : ` ${number}`
  if (!known) {
    const [first = ''] = whole.split(/\s+/)
    return `${first.length > shortLetters ? `${bounded(first, 3)}.` : first}${behind}`
  }
  const [pattern, short] = known
  const before = whole.slice(0, whole.search(pattern)).trim()
  const player = before === '' ? '' : `${[...before][0]!.toUpperCase()}. `
  return `${player}${short}${behind}`
}
