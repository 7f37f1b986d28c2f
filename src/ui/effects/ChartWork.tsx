import { chordRhythms, feels, longestChart } from '@/core/generators/chartGenerators'
import type { TypingProblem } from '@/core/generators/generated'
import type { GeneratorWork } from '@/core/generators/generator'
import { progressions } from '@/core/generators/progressions'
import { voicings } from '@/core/generators/voicing'
import { Choice } from '../controls/Choice'
import { NumberFields, type NumberSetting } from '../controls/NumberFields'
import { TextEditor } from './TextEditor'

type ChartWorkOf = Extract<GeneratorWork, { kind: 'chords' | 'accompaniment' }>

const choices = <Option extends string>(options: readonly Option[]) =>
  options.map((value) => ({ value, text: value }))

const channelSetting = <Name extends string>(name: Name, label: string): NumberSetting<Name> => ({
  name,
  label,
  min: 1,
  max: 16,
})

const bandSettings = [
  { name: 'countInBars', label: 'Count-in', unit: 'bars', min: 0, max: 4 } as const,
  channelSetting('bassChannel', 'bass on channel'),
  channelSetting('drumsChannel', 'drums on'),
  channelSetting('compingChannel', 'comping on'),
]

const chordSettings = [
  { name: 'strumMs', label: 'Strum', unit: 'ms', min: 0, max: 200 } as const,
  { name: 'gate', label: 'Gate', unit: '%', min: 5, max: 100 } as const,
  { name: 'middleKey', label: 'Around key', min: 36, max: 96 } as const,
  { name: 'velocity', label: 'Force', min: 1, max: 127 } as const,
  channelSetting('channel', 'channel'),
]

const placeSettings = [
  { name: 'choruses', label: 'Choruses', min: 1, max: 200 },
  { name: 'startBar', label: 'from bar', min: 1, max: 9999, className: 'w-12' },
] as const

/** A chord chart with what is made of it: one chord player, or a band. */
export function ChartWork({
  work,
  problems,
  onChange,
}: {
  work: ChartWorkOf
  problems: readonly TypingProblem[]
  onChange: (label: string, work: GeneratorWork, group?: string) => void
}) {
  const setNumber = (name: string, value: number, { label }: { label: string }) =>
    onChange(`${label.toLowerCase()} ${value}`, { ...work, [name]: value })
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 text-[13px]">
        {work.kind === 'accompaniment' ? (
          <>
            <Choice
              label="Feel"
              value={work.feel}
              options={choices(feels)}
              onChange={(feel) => onChange(`feel ${feel}`, { ...work, feel })}
            />
            <NumberFields settings={bandSettings} values={work} onChange={setNumber} />
          </>
        ) : (
          <>
            <Choice
              label="Voicing"
              value={work.voicing}
              options={choices(voicings)}
              onChange={(voicing) => onChange(`voicing ${voicing}`, { ...work, voicing })}
            />
            <Choice
              label="Rhythm"
              value={work.rhythm}
              options={choices(chordRhythms)}
              onChange={(rhythm) => onChange(`rhythm ${rhythm}`, { ...work, rhythm })}
            />
            <NumberFields settings={chordSettings} values={work} onChange={setNumber} />
          </>
        )}
        <NumberFields settings={placeSettings} values={work} onChange={setNumber} />
      </div>
      <select
        aria-label="Pick a progression"
        className="rounded border border-rule bg-sheet px-1.5 py-0.5 text-[13px]"
        value=""
        onChange={(event) => {
          const chart = progressions[event.target.value]
          if (chart) onChange(`take the progression “${event.target.value}”`, { ...work, chart })
        }}
      >
        <option value="">pick a progression…</option>
        {Object.keys(progressions).map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
      <TextEditor
        label="Chord chart"
        text={work.chart}
        problems={problems}
        height="150px"
        longest={longestChart}
        help="Bars between |, several chords share a bar, % is the bar before again, |: and :| repeat (x3 for more often), N.C. is none, # begins a remark."
        onChange={(chart) => onChange('type a chart', { ...work, chart }, 'text')}
      />
    </div>
  )
}
