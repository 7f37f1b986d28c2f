/** Progressions of the trade to begin with (common practice, no source), as charts in C or A minor. */
export const progressions: Readonly<Record<string, string>> = {
  'Two, five, one': '|: Dm7 | G7 | Cmaj7 | % :|\n',
  'Two, five, one in minor': '|: Bm7b5 | E7 | Am7 | % :|\n',
  'One, six, four, five': '|: C | Am | F | G :|\n',
  'Round the fifths': '|: Am7 | Dm7 | G7 | Cmaj7 | Fmaj7 | Bm7b5 | E7 | Am7 :|\n',
  'Twelve-bar blues': '|: C7 | F7 | C7 | C7 | F7 | F7 | C7 | A7 | Dm7 | G7 | C7 A7 | Dm7 G7 :|\n',
  'Falling bass': '|: Am | Am/G | F | E :|\n',
  'Still water': '|: Cmaj7 | % | Fmaj7 | % :|\n',
}
