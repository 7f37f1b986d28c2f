import type { TypingProblem } from '@/core/generators/generated'
import { type GeneratorWork, longestTypedText, typedMusic } from '@/core/generators/generator'
import { Choice } from '../controls/Choice'
import { NumberFields } from '../controls/NumberFields'
import { TextEditor } from './TextEditor'

const languages = [
  { value: 'lists' as const, text: 'lists of pitches and lengths' },
  { value: 'abc' as const, text: 'ABC notation' },
]

const exampleAbc =
  'X:1\nT:Lantern round\nM:4/4\nL:1/8\nQ:1/4=100\nK:Dm\nV:1 name="Bell"\n|: D2 F2 A2 d2 | c>A G2 F4 :|\nV:2 name="Low water"\n|: D,4 A,4 | G,4 D,4 :|\n'

const help = {
  lists:
    'A line “part NAME, channel 2, program 73, gate 80, offset 12” begins a part. Then pitches (C4, F#5, 60), chords (C4+E4+G4) and rests (r), each with its length (1/4, 1/8., 1/8t, 1/2+1/8) or the one before. v80 sets the force, # begins a remark.',
  abc: 'The abc music standard 2.1: notes, keys, lengths, chords, ties, tuplets, repeats with endings, voices. V: may carry channel=, program=, gate= and offset= besides name=.',
}

const settings = [
  { name: 'gate', label: 'Gate', unit: '%', min: 1, max: 100 },
  { name: 'startBar', label: 'from bar', min: 1, max: 9999, className: 'w-12' },
] as const

/** Parts written as text. */
export function TypedWork({
  work,
  problems,
  onChange,
}: {
  work: Extract<GeneratorWork, { kind: 'typed' }>
  problems: readonly TypingProblem[]
  onChange: (label: string, work: GeneratorWork, group?: string) => void
}) {
  const { parts } = typedMusic(work)
  const count = parts.reduce(
    (sum, part) => sum + part.notes.reduce((notes, { keys }) => notes + keys.length, 0),
    0,
  )
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 text-[13px]">
        <Choice
          label="Written as"
          value={work.language}
          options={languages}
          onChange={(language) =>
            onChange(`write as ${language}`, {
              ...work,
              language,
              text: language === 'abc' && !/^K:/m.test(work.text) ? exampleAbc : work.text,
            })
          }
        />
        <NumberFields
          settings={settings}
          values={work}
          onChange={(name, value, { label }) =>
            onChange(`${label.toLowerCase()} ${value}`, { ...work, [name]: value })
          }
        />
        <span className="text-soft" data-testid="typed-count">
          {parts.length} {parts.length === 1 ? 'part' : 'parts'}, {count.toLocaleString('en')} notes
        </span>
      </div>
      <TextEditor
        label="Typed music"
        text={work.text}
        problems={problems}
        height="230px"
        longest={longestTypedText}
        help={help[work.language]}
        onChange={(text) => onChange('type music', { ...work, text }, 'text')}
      />
    </div>
  )
}
