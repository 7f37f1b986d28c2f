import { useState } from 'react'
import type { AmendmentOf } from '@/core/notation/amendments/amendment'
import type { Project } from '@/core/project/schema'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import { Choice, ColumnHeading } from '../controls/Choice'
import { useView } from '../workspace/sessionContext'
import { BarSettings } from './BarSettings'
import { curves, levels, type OfferedStroke, ofBars, places, signs, tuplets, values } from './penStrokes'
import type { Pen } from './usePen'
import { WordsAtNote } from './WordsAtNote'

const clefNames: readonly {
  readonly value: NonNullable<AmendmentOf<'clef'>['clef']>
  readonly text: string
}[] = [
  { value: 'treble', text: 'treble' },
  { value: 'bass', text: 'bass' },
  { value: 'alto', text: 'alto' },
  { value: 'tenor', text: 'tenor' },
  { value: 'treble 8vb', text: 'treble, octave lower' },
  { value: 'bass 8vb', text: 'bass, octave lower' },
]

/** What can be written at what is chosen, over what was read. */
export function PenBench({
  project,
  place,
  pen,
}: {
  project: Project
  place: WrittenPlace | null | undefined
  pen: Pen
}) {
  const told = useView((state) => state.told)
  if (!place) return null
  const isNote = place.noteId !== null
  const isOn = ({ stroke }: OfferedStroke): boolean => {
    if (stroke.to === 'value') return place.value.type === stroke.type
    if (stroke.to === 'dot') return place.value.dots > 0
    if (stroke.to === 'sign') return place.signs.includes(stroke.sign)
    if (stroke.to === 'tuplet') return place.tuplet === stroke.actual
    return false
  }
  const strip = (label: string, offered: readonly OfferedStroke[]) => (
    <Strip
      label={label}
      offered={offered}
      isOn={isOn}
      onWrite={({ name, stroke }) => pen.write(name, stroke)}
    />
  )
  return (
    <section aria-label="Write" className="mt-4">
      <ColumnHeading>Write</ColumnHeading>
      <p aria-live="polite" className="text-[13px] text-soft" data-testid="pen-says">
        {told?.of === project ? told.text : isNote ? '' : 'A rest is chosen.'}
      </p>
      {isNote && (
        <>
          {strip('Value', values)}
          {strip('Tuplet', tuplets)}
          {strip('Pitch', place.staves > 1 ? places : places.filter(({ stroke }) => stroke.to !== 'staff'))}
          <div className="mb-2">
            <Choice
              label="Voice"
              value={place.line}
              options={[1, 2, 3, 4].map((line) => ({ value: line, text: `${line} of the staff` }))}
              onChange={(line) => pen.write('another voice', { to: 'line', line })}
            />
          </div>
          {strip('Signs', signs)}
          <div className="mb-2">
            <Choice
              label="Level"
              value={place.level ?? ''}
              options={[
                { value: '', text: 'none here' },
                ...levels.map((mark) => ({ value: mark, text: mark })),
              ]}
              onChange={(mark) =>
                pen.write(mark === '' ? 'no level' : mark, { to: 'level', mark: mark === '' ? null : mark })
              }
            />
          </div>
          {strip('From first to last', curves)}
        </>
      )}
      <WordsAtNote project={project} place={place} pen={pen} />
      <h3 className="mt-3 mb-1 font-semibold">Bar {place.bar}</h3>
      <div className="mb-2">
        <Choice
          label="Clef"
          value=""
          options={[{ value: '', text: 'as it is' }, ...clefNames, { value: 'none', text: 'no change here' }]}
          onChange={(value) => {
            const clef = clefNames.find((each) => each.value === value)?.value ?? null
            if (value !== '') pen.write('clef', { to: 'clef', clef })
          }}
        />
      </div>
      <BarSettings project={project} place={place} pen={pen} />
      {strip('Repeats and breaks', ofBars)}
    </section>
  )
}

/** Strokes beside each other, each with its sign and its key. */
function Strip({
  label,
  offered,
  isOn,
  onWrite,
}: {
  label: string
  offered: readonly OfferedStroke[]
  isOn: (stroke: OfferedStroke) => boolean
  onWrite: (stroke: OfferedStroke) => void
}) {
  const [hovered, setHovered] = useState<OfferedStroke | null>(null)
  return (
    <fieldset className="mb-2" aria-label={label}>
      <div className="flex justify-between text-[13px] text-soft">
        <span>{label}</span>
        {/* What a sign means, without waiting for the browser to say it. */}
        <span aria-hidden className="truncate pl-2">
          {hovered ? `${hovered.name}${hovered.key === null ? '' : `  ${hovered.key}`}` : ''}
        </span>
      </div>
      <div className="flex flex-wrap gap-1">
        {offered.map((each) => (
          <button
            key={each.name}
            type="button"
            aria-label={each.name}
            aria-keyshortcuts={each.key ?? undefined}
            aria-pressed={isOn(each)}
            title={each.key === null ? each.name : `${each.name} (${each.key})`}
            className="h-7 min-w-7 rounded border border-rule bg-sheet px-1 text-[15px] leading-none hover:border-[#b9ad93] aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-paper"
            onClick={() => onWrite(each)}
            onPointerEnter={() => setHovered(each)}
            onPointerLeave={() => setHovered(null)}
            onFocus={() => setHovered(each)}
            onBlur={() => setHovered(null)}
          >
            {each.looks}
          </button>
        ))}
      </div>
    </fieldset>
  )
}
