/** What the help page says: keys, words of this program, and what to do when something is not as it should be. */
export const keys: readonly (readonly [keys: string, does: string])[] = [
  ['space', 'play, stop'],
  ['Shift+R', 'record, stop'],
  ['Home', 'back to the beginning'],
  ['Escape', 'close what is open; otherwise silence everything (a recording goes on)'],
  [
    '1 to 6',
    'the steps: players, record, effects, tracks, score, deliver (not where notes are chosen: there they write)',
  ],
  ['Ctrl+Z, Ctrl+Shift+Z', 'undo, redo'],
  ['A W S E D F T G Y H U J K O L P ;', 'notes; Z X change the octave, C V the loudness'],
  ['?', 'this help'],
  ['in the roll: arrows, Shift+arrows', 'move notes; stretch them, or move by an octave'],
  ['in the roll: Delete, Ctrl+A, Enter', 'delete, select all, draw at the playing position'],
  ['in the roll: 1 to 8, 0', 'put what is selected into a voice; into none'],
  ['in the roll: full stop', 'carry that correction on through the notes that follow'],
  ['in the roll: Ctrl+C, X, V, D', 'copy, cut, paste at the playing position, double behind'],
  ['in the roll: Shift and press on a key', 'select all notes of that key'],
  ['in the roll: Shift+space', 'hear what is selected, and nothing else'],
  ['in Tracks: /', 'everything that can be done to notes, by its name'],
  ['while you tap along: Enter', 'a beat'],
  ['in the velocities: Shift and drag', 'a line that velocities follow'],
  ['in the list: arrows, Enter, Insert, Delete', 'from row to row, type, add, take out'],
  ['on the page: Ctrl and wheel, two fingers', 'larger, smaller'],
  ['on the page: arrows', 'from note to note and rest to rest; up and down to what is above or below'],
  ['in a chain: space on a handle, then arrows', 'move an effect'],
]

export const words: readonly (readonly [word: string, means: string])[] = [
  ['thread', 'the way of one voice, from a player to a track to a staff, always in one colour'],
  ['source, player', 'whoever sends notes: a port, your keys, a stand-in, a file, a generator'],
  ['take', 'one recording as it was played; it is never changed'],
  ['pass', 'one turn of a loop that is recorded; each is a take'],
  ['clip', 'what a take, a file or drawing put on a track; several can lie over each other, one is heard'],
  ['print', 'to make ordinary notes of what effects or generators play'],
  ['throw', 'what chance gives an effect; a throw that is liked can be kept'],
  ['cable', 'a connection between tabs of this browser, with 16 channels'],
  ['voice', 'one line of a part; a note belongs to one where that was told, otherwise the page sorts it'],
  ['bench', 'a place beside the roll where notes are worked on'],
  ['section', 'a named part of the piece: a rehearsal mark on the page, a marker in MIDI files'],
  ['changed by hand', 'what you write on the page over what was read; what was played stays as it was'],
  [
    'as another take, over it, a new voice, a new staff',
    'where a take lies that was recorded onto music; nothing is overwritten, and it can be laid otherwise at any time',
  ],
  ['cue', 'in a player’s part: what another plays, in small notes, before an entry after a long rest'],
  ['rest', 'an effect or source that is there but not at work, as after printing'],
]

export const whatIf: readonly (readonly [problem: string, remedy: string])[] = [
  [
    'There is no sound.',
    'Press any key or button: browsers let sound begin only then. Below right it says “sound on”. Look whether the track is muted, another one is solo, or its instrument is “silent”; under Players, a remark says which link is missing.',
  ],
  [
    'My guitar, voice or wind instrument is to play along like any keyboard.',
    'Under Players, “Sound in”: choose the input, say what it is, press Listen; the browser asks. Its card shows the level (keep the peaks between the marks), what was heard in the last seconds over the notes that were made of it, and a tuner. It goes through routes, effects and recording like everybody. One note at a time is followed; what lies between the keys can be sent as bends. The sound stays with the take: under Tracks it lies beneath the notes, is heard with them, and can be read again, for chords too. Without a microphone, three stand-ins play into inputs. Wear headphones: a microphone hears loudspeakers too.',
  ],
  [
    'I play no keyboard: a recording of my guitar or voice is to become notes.',
    'Drop the recording on the shelf, or bring it in under Players, “Tracks from a file”. One note at a time is read best; for chords say “several notes at once”. What is doubtful stays faint and is taken by a press. A dry, steady sound near the microphone is read best; many players together are not.',
  ],
  [
    'My MIDI keyboard is not there.',
    'Browsers ask before a page may use MIDI: allow it beside the address and reload. Most browsers have MIDI, some have not; the line under the keys says how it is here. A keyboard that was plugged in later appears by itself at its first note.',
  ],
  [
    'Everything plays on one track.',
    'The players share a channel. Under Players, tick “a track for everyone who plays”, or give a track to one player with “assign” and one note.',
  ],
  [
    'One track holds several voices, both hands, or a whole kit.',
    'Under Tracks, “Take apart” shows how it would be divided, in colour and for the ear, before anything is done. The parts go to tracks of their own, or stay as voices and staves of the same part; what was there rests, and comes back with one press.',
  ],
  [
    'Notes on the page are wrong.',
    'Under Score, choose the smallest value that was meant and whether there are tuplets. What was played stays as it is: a notehead shows how it was played, and its track is one press away. What is still wrong you write over: choose the note, and its value, name or voice beside it or by keys. Was it played without the click? Then let the bars be found: under Tracks, “Bars”, “Find the bars”.',
  ],
  [
    'There are dots, levels or clefs on the page that I do not want.',
    'Under Score, each thing that is read from the playing has a tick: short notes as dots, clefs and octave lines, dynamics and accents, words. Without it the page is as plain as before. “All parts as they sound” shows concert pitch; below a part’s name you choose how it is written.',
  ],
  [
    'I have the music in a notation program.',
    'Save it there as MusicXML, MEI or ABC and bring it in on the shelf. It comes as tracks that play it, repeats and ornaments played out, and its page stays as it is written while you work on the notes. “Read it anew”, beside a part under Score, finds the page from how it is played instead.',
  ],
  [
    'My notation program puts notes on the wrong staff when I play into it.',
    'Under Deliver, “Live into notation software” sends the two staves of a part on two channels, as its page has them: set up two staves there that listen to one channel each. “As written” sends clean lengths on the grid.',
  ],
  [
    'Notes are missing on the page.',
    'Very quiet and very short notes are left out as slips; when they are more than a few, a sentence above the music says so and writes them at a press.',
  ],
  [
    'A note goes on sounding.',
    'Press Escape, or Silence below right: everything ends, here and on every port. While you record, Escape lets the recording go on, and the button ends it.',
  ],
  [
    'I closed the tab while recording.',
    'Open the piece again: what was played up to then is offered as a take.',
  ],
  [
    'It is too fast to learn, or to play.',
    'Beside the tempo, choose a smaller percent: everything plays slower without another pitch. What is recorded then lies in its bars, and plays at any speed afterwards. Under Score, one part can be louder, alone, or left out.',
  ],
  [
    'Will my pieces be here tomorrow?',
    'They are stored in this browser on this machine. The shelf says whether the browser keeps them for good; save what matters to a file under Deliver.',
  ],
]
