import type { Instrument } from './instrument'

/**
 * What names of parts say about their instrument, the most telling first; programs of General MIDI from 0. English, Italian, German and
 * French names of the orchestra. (Common practice, no source.)
 */
const ofName: readonly (readonly [RegExp, number | 'drums'])[] = [
  [/\b(drum ?(set|kit)|drums|percussion|schlagzeug|batterie|batteria)\b/i, 'drums'],
  [/\b(bass ?clarinet)/i, 71],
  [/\b(piccolo|ottavino)\b(?!.*(trumpet|tromba))/i, 72],
  [/\b(fl(ute|auto|öte)?s?\.?)(\b|$)/i, 73],
  [/\b(recorder|blockfl)/i, 74],
  [/\b(cor anglais|english horn|englischhorn|corno inglese)/i, 69],
  [/\b(oboe|hautbois)/i, 68],
  [/\b(clarinet|clarinetto|klarinette|clarinette)/i, 71],
  [/\b(bassoon|fagott|basson)/i, 70],
  [/\bsoprano sax/i, 64],
  [/\balto sax/i, 65],
  [/\btenor sax/i, 66],
  [/\bbari\w* sax/i, 67],
  [/\bsax/i, 65],
  [/\b(horn|corno|corni|cor)\b/i, 60],
  [/\b(trumpet|cornet|tromba|trompete|trompette|flugelhorn)/i, 56],
  [/\b(trombone|posaune)/i, 57],
  [/\btuba\b/i, 58],
  [/\b(timpani|pauken|timbales)\b/i, 47],
  [/\b(glockenspiel)/i, 9],
  [/\bvibraphone/i, 11],
  [/\bmarimba/i, 12],
  [/\bxylo/i, 13],
  [/\bcelesta/i, 8],
  [/\b(harpsichord|cembalo|clavecin)/i, 6],
  [/\b(organ|orgel|orgue|organo)\b/i, 19],
  [/\baccordion/i, 21],
  [/\b(harp|harfe|harpe|arpa)\b/i, 46],
  [/\b(guitar|gitarre|guitare|chitarra)/i, 24],
  [/\b(bass guitar|electric bass|e-?bass)\b/i, 33],
  [/\b(double bass|contrabass|kontrabass|contrebasse|contrabbasso)/i, 43],
  [/\b(violoncello|cello|violoncelle)/i, 42],
  [/\b(viola|bratsche|alto \(viola\))\b/i, 41],
  [/\b(violin|violino|violini|violine|geige|violon)\b/i, 40],
  [/\b(soprano|sopran|mezzo|alto|alt|tenor|tenore|baritone|bass|basso|voice|choir|chor|stimme|canto)\b/i, 52],
  [/\b(strings|streicher|archi)\b/i, 48],
  [/\b(piano|klavier|pianoforte|keyboard)/i, 0],
]

/** Sound ids of MusicXML 3.0 and newer, by how they begin, the most telling first. (MusicXML 4.0, `sounds.xml`.) */
const ofSound: readonly (readonly [string, number | 'drums'])[] = [
  ['drum.group', 'drums'],
  ['drum.timpani', 47],
  ['drum', 'drums'],
  ['keyboard.harpsichord', 6],
  ['keyboard.celesta', 8],
  ['keyboard.organ', 19],
  ['keyboard.accordion', 21],
  ['keyboard', 0],
  ['brass.french-horn', 60],
  ['brass.trumpet', 56],
  ['brass.cornet', 56],
  ['brass.flugelhorn', 56],
  ['brass.trombone', 57],
  ['brass.tuba', 58],
  ['wind.flutes.flute.piccolo', 72],
  ['wind.flutes.recorder', 74],
  ['wind.flutes', 73],
  ['wind.reed.oboe', 68],
  ['wind.reed.english-horn', 69],
  ['wind.reed.clarinet', 71],
  ['wind.reed.bassoon', 70],
  ['wind.reed.contrabassoon', 70],
  ['wind.reed.saxophone.soprano', 64],
  ['wind.reed.saxophone.tenor', 66],
  ['wind.reed.saxophone.baritone', 67],
  ['wind.reed.saxophone', 65],
  ['strings.violin', 40],
  ['strings.viola', 41],
  ['strings.cello', 42],
  ['strings.contrabass', 43],
  ['pluck.harp', 46],
  ['pluck.guitar', 24],
  ['pluck.bass', 33],
  ['pitched-percussion.glockenspiel', 9],
  ['pitched-percussion.vibraphone', 11],
  ['pitched-percussion.marimba', 12],
  ['pitched-percussion.xylophone', 13],
  ['strings.group', 48],
  ['voice', 52],
]

const instrument = (program: number | 'drums'): Instrument =>
  program === 'drums' ? { kind: 'drums' } : { kind: 'program', program }

/** The instrument a part is for, by its name; null where that says nothing. */
export function instrumentOfName(name: string): Instrument | null {
  const said = ofName.find(([pattern]) => pattern.test(name))
  return said ? instrument(said[1]) : null
}

/** The instrument of a sound id of MusicXML; null for one that is not known. */
export function instrumentOfSound(sound: string): Instrument | null {
  const known = ofSound.find(([begins]) => sound === begins || sound.startsWith(`${begins}.`))
  return known ? instrument(known[1]) : null
}
