/** What is said of each command where it is asked for. */
export const usageOf = {
  inspect: `  inspect FILE                                what is in the file`,
  convert: `  convert FILE --out OUT.mid|.musicxml|.mxl|.mei|.abc|.svg|.pdf|.wav|.ogg|.voice
                                              the same music in another form; with the options of score and render`,
  score: `  score FILE --out OUT.musicxml|.mxl|.pdf     performance to notation; pages as PDF
        [--paper A4|letter|A3|tablet|wideTablet] [--parts]      of a PDF; with a part for each player
        [--parts-dir DIR]                     each player's part as a PDF of its own
        [--split C4|hands] [--join-hands off|on] [--grid 4|8|16|32] [--tuplets on|off] [--swing on|off]
        [--pitch written|concert] [--touch on|off] [--clefs on|off] [--dynamics on|off] [--ornaments on|off] [--slurs on|off]
        [--pedal on|off] [--pedal-lengths off|on] [--beams-over-rests off|on] [--repeats off|on] [--words on|off]
        [--min-velocity N] [--min-length-ms N] [--chord-window-ms N]`,
  split: `  split FILE.mid --by channel|voice|hand|line|key|drum --out OUT.mid
        [--voices N] [--at C4[,C5…]]          one track for each part`,
  bars: `  bars FILE.mid --out OUT.mid                 tempo and bar lines for what was played freely`,
  stems: `  stems FILE.mid --out DIR                    one file for each part`,
  render: `  render FILE --out OUT.wav|.ogg [--stems DIR] [--bits 16|24] [--rate 44100|48000]
                                              sound of the whole, and of each part`,
  listen: `  listen FILE.wav --out OUT.mid [--chords] [--preset any|voice|guitar|bass|wind|string] [--a4 440]
                                              a recording to notes: a line, or several notes at once`,
  effects: `  effects FILE --chain CHAIN.json --out OUT.mid [--seed N]
                                              note effects over every track`,
  generate: `  generate SPEC.json|FILE.abc|FILE.txt --out OUT.mid
                                              what a generator plays, or typed music`,
} as const

const ofMany = `Several files at once: FILE … --out-dir DIR [--to FORM] [--jobs N] in place of --out (but for inspect, stems and
generate); FORM is the ending of what is written, N how many are worked on side by side.`

/** What is said of the commands where one is asked for or is wrong. */
export const usage = `Usage: npm run --silent unbroken -- COMMAND …

FILE is a Standard MIDI File, MusicXML (plain or compressed), MEI, ABC, or a project saved to a file.

${Object.values(usageOf).join('\n')}

${ofMany}
COMMAND --help tells of one command, --version which program this is.
What CHAIN.json and SPEC.json hold is told in docs/batch.md.

JSON goes to standard output, messages to standard error.
Exit status: 0 done, 1 the input is bad, 2 the command is.
`

/** What is said of one command. */
export const usageOfCommand = (name: keyof typeof usageOf) =>
  `Usage: npm run --silent unbroken -- …\n\n${usageOf[name]}\n\n${ofMany}\n`
