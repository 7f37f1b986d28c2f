import { chordRhythms, feels } from '@/core/generators/chartGenerators'
import type { TypingProblem } from '@/core/generators/generated'
import type { GeneratorWork } from '@/core/generators/generator'
import { progressions } from '@/core/generators/progressions'
import { voicings } from '@/core/generators/voicing'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { TextEditor } from './TextEditor'

type ChartWorkOf = Extract<GeneratorWork, { kind: 'chords' | 'accompaniment' }>

const choices = <Option extends string>(options: readonly Option[]) =>
  options.map((value) => ({ value, text: value }))

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
  const channel = (label: string, value: number, set: (value: number) => ChartWorkOf) => (
    <NumberField
      label={label}
      className="w-11"
      value={value}
      min={1}
      max={16}
      onChange={(next) => onChange(`${label} ${next}`, set(next))}
    />
  )
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
            <NumberField
              label="Count-in"
              unit="bars"
              className="w-11"
              value={work.countInBars}
              min={0}
              max={4}
              onChange={(countInBars) => onChange('change the count-in', { ...work, countInBars })}
            />
            {channel('bass on channel', work.bassChannel, (bassChannel) => ({ ...work, bassChannel }))}
            {channel('drums on', work.drumsChannel, (drumsChannel) => ({ ...work, drumsChannel }))}
            {channel('comping on', work.compingChannel, (compingChannel) => ({ ...work, compingChannel }))}
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
            <NumberField
              label="Strum"
              unit="ms"
              className="w-11"
              value={work.strumMs}
              min={0}
              max={200}
              onChange={(strumMs) => onChange('change the strum', { ...work, strumMs })}
            />
            <NumberField
              label="Gate"
              unit="%"
              className="w-11"
              value={work.gate}
              min={5}
              max={100}
              onChange={(gate) => onChange('change the gate', { ...work, gate })}
            />
            <NumberField
              label="Around key"
              className="w-11"
              value={work.middleKey}
              min={36}
              max={96}
              onChange={(middleKey) => onChange('change the register', { ...work, middleKey })}
            />
            <NumberField
              label="Force"
              className="w-11"
              value={work.velocity}
              min={1}
              max={127}
              onChange={(velocity) => onChange('change the force', { ...work, velocity })}
            />
            {channel('channel', work.channel, (next) => ({ ...work, channel: next }))}
          </>
        )}
        <NumberField
          label="Choruses"
          className="w-11"
          value={work.choruses}
          min={1}
          max={200}
          onChange={(choruses) => onChange(`${choruses} choruses`, { ...work, choruses })}
        />
        <NumberField
          label="from bar"
          className="w-12"
          value={work.startBar}
          min={1}
          max={9999}
          onChange={(startBar) => onChange(`from bar ${startBar}`, { ...work, startBar })}
        />
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
        help="Bars between |, several chords share a bar, % is the bar before again, |: and :| repeat (x3 for more often), N.C. is none, # begins a remark."
        onChange={(chart) => onChange('type a chart', { ...work, chart }, 'text')}
      />
    </div>
  )
}
