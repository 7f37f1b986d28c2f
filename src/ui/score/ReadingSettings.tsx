import { useState } from 'react'
import { keyName, parseKeyName } from '@/core/event/note'
import type { ScoreSettings } from '@/core/notation/scoreSettings'
import type { Project } from '@/core/project/schema'
import { setReading } from '@/core/project/settings'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'
import { KeySettings } from './KeySettings'

const smallestNames: Record<ScoreSettings['smallestValue'], string> = {
  4: 'quarter',
  8: 'eighth',
  16: 'sixteenth',
  32: 'thirty-second',
}

/** What is read or written, or not: what it says beside its box, and what it is called in the history. */
const switches = [
  ['followsHands', 'staves follow the hands', 'follow the hands'],
  ['readsSwing', 'swing as a word, eighths even', 'swing'],
  ['isConcertPitch', 'all parts as they sound', 'concert pitch'],
  ['readsTouch', 'short notes as dots, not rests', 'touch'],
  ['readsClefs', 'clefs and octave lines change', 'clefs'],
  ['readsDynamics', 'dynamics and accents', 'dynamics'],
  ['readsOrnaments', 'trills, grace notes, rolls as signs', 'ornaments'],
  ['readsSlurs', 'slurs over legato', 'slurs'],
  ['readsPedal', 'pedal signs', 'pedal'],
  ['holdsThroughPedal', 'as long as the pedal holds', 'lengths through the pedal'],
  ['beamsOverRests', 'beams over rests', 'beams over rests'],
  ['foldsRepeats', 'the same twice as a repeat', 'repeats'],
  ['writesWords', 'words and syllables', 'words on the page'],
] as const

/** How the performance is read: grid, tuplets, voices, split, floors, key. */
export function ReadingSettings({ project, outline }: { project: Project; outline: ScoreOutline | null }) {
  const session = useSession()
  const settings = project.scoreSettings
  const change = (label: string, fields: Partial<ScoreSettings>) =>
    session.store.getState().apply(label, (before) => setReading(before, fields), label)
  return (
    <section aria-label="How it is read" className="mt-6 space-y-2">
      <ColumnHeading>How it is read</ColumnHeading>
      <Choice
        label="Smallest"
        value={settings.smallestValue}
        options={([4, 8, 16, 32] as const).map((value) => ({ value, text: smallestNames[value] }))}
        onChange={(smallestValue) => change('smallest value', { smallestValue })}
      />
      <Choice
        label="Tuplets"
        value={settings.tuplets ? 'played' : 'none'}
        options={[
          { value: 'played', text: 'when played' },
          { value: 'none', text: 'none' },
        ]}
        onChange={(value) => change('tuplets', { tuplets: value === 'played' })}
      />
      <Choice
        label="Voices"
        value={settings.severalVoices ? 'several' : 'one'}
        options={[
          { value: 'several', text: 'as needed' },
          { value: 'one', text: 'one a staff' },
        ]}
        onChange={(value) => change('voices', { severalVoices: value === 'several' })}
      />
      <SplitField splitKey={settings.splitKey} onChange={(splitKey) => change('split point', { splitKey })} />
      <Choice
        label="Chord window"
        value={settings.chordWindowMs}
        options={uniqueOptions([15, 30, 45, 60], settings.chordWindowMs, ' ms')}
        onChange={(chordWindowMs) => change('chord window', { chordWindowMs })}
      />
      {switches.map(([field, words, what]) => (
        <Tick key={field} isOn={settings[field]} onChange={(isOn) => change(what, { [field]: isOn })}>
          {words}
        </Tick>
      ))}
      <p className="pt-1 text-[13px] text-soft">Left out are notes</p>
      <Choice
        label="quieter than"
        value={settings.minVelocity}
        options={uniqueOptions([0, 2, 5, 10, 20], settings.minVelocity, '')}
        onChange={(minVelocity) => change('velocity floor', { minVelocity })}
      />
      <Choice
        label="shorter than"
        value={settings.minLengthMs}
        options={uniqueOptions([0, 20, 40, 60], settings.minLengthMs, ' ms')}
        onChange={(minLengthMs) => change('length floor', { minLengthMs })}
      />
      <KeySettings project={project} heard={outline?.keys ?? null} />
    </section>
  )
}

/** The values offered, with the one in force among them; nothing is left out at 0. */
function uniqueOptions(
  values: readonly number[],
  current: number,
  unit: string,
): { value: number; text: string }[] {
  return [...new Set([...values, current])]
    .sort((a, b) => a - b)
    .map((value) => ({ value, text: value === 0 ? 'keep all' : `${value}${unit}` }))
}

function SplitField({ splitKey, onChange }: { splitKey: number; onChange: (key: number) => void }) {
  const [draft, setDraft] = useState<string | null>(null)
  const parsed = draft === null ? splitKey : parseKeyName(draft)
  const keep = () => {
    if (draft !== null && parsed !== undefined && parsed !== splitKey) onChange(parsed)
    setDraft(null)
  }
  return (
    <label className="flex items-center gap-2 text-[13px]">
      <span className="text-soft">Split at</span>
      <input
        className={`w-16 rounded border bg-sheet px-1.5 py-0.5 font-semibold ${parsed === undefined ? 'border-live' : 'border-rule'}`}
        aria-invalid={parsed === undefined}
        value={draft ?? keyName(splitKey)}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
    </label>
  )
}
