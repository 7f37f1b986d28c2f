/**
 * Folders of the core from the ground up: each imports only from rows above its own. The rules (`.dependency-cruiser.cjs`) and the page of the
 * architecture are made of this list.
 */
module.exports = [
  { border: 'the library of checks, set up; archives', text: 'bounded names', ledger: 'what balances' },
  { sound: 'WAV, other rates, kept sound, models of instruments' },
  { time: 'ticks, tempo and meter maps' },
  {
    event: 'notes, their origin, columns',
    midi: 'messages, clock, Standard MIDI Files, General MIDI names',
  },
  {
    beats: 'beats and bars of what was played without a click',
    separation: 'voices, hands, lines, drums, channels',
    pitch: 'sound to notes',
  },
  {
    effects: 'a folder for each group; chain, printing',
    notation: 'performance to score; written music to a performance',
    pages: 'paper, and lines of music put on pages',
  },
  {
    editing: 'operations on notes, the clipboard',
    generators: 'lanes, Euclidean rhythms, chord charts, typed music',
    routing: 'routes, ports and cables, feedback',
    programs: 'what the stand-in sender plays, what the stand-in receiver writes',
  },
  {
    capture:
      'takes, passes of a loop, snapping, latency, players that perform; a take becomes notes in stages: `playedNotes`, effects, `trackDesk`',
  },
  {
    project:
      'schema, migrations, what fits and what can be salvaged, commands, printing of chains and generators, templates, tempo edits, what of it is on the page',
  },
  { wiring: 'the check of the wiring, dealt voices, printing a cable: what needs the whole project' },
  {
    formats: 'MusicXML, MEI, ABC, MIDI, project file, specifications for batch work',
    demo: 'the invented piece and its players',
  },
  { proof: 'reading back and comparing' },
]
