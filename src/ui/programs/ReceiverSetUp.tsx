import { X } from 'lucide-react'
import { keyName } from '@/core/event/note'
import type { ReceiverPart, ReceiverSettings } from '@/core/programs/receiver/receiverSettings'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { Section } from '../controls/Section'
import { Tick } from '../controls/Tick'

type Change = (fields: Partial<ReceiverSettings>) => void

const values = [
  { value: 4, text: 'quarters' },
  { value: 8, text: 'eighths' },
  { value: 16, text: 'sixteenths' },
  { value: 32, text: 'thirty-seconds' },
] as const
const channels = Array.from({ length: 16 }, (_, index) => ({
  value: index + 1,
  text: `channel ${index + 1}`,
}))

/** Meter, grid, floors: how what arrives is written. */
export function ReceiverSetUp({ settings, change }: { settings: ReceiverSettings; change: Change }) {
  const { begins } = settings
  return (
    <Section
      title="How it writes"
      state={`${settings.numerator}/${settings.denominator}, down to ${values.find(({ value }) => value === settings.smallest)!.text}`}
    >
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <NumberField
          label="meter"
          value={settings.numerator}
          min={1}
          max={24}
          onChange={(numerator) => change({ numerator })}
        />
        <Choice
          label="over"
          value={settings.denominator}
          options={([2, 4, 8] as const).map((value) => ({ value, text: String(value) }))}
          onChange={(denominator) => change({ denominator })}
        />
        <NumberField
          label="sharps (flats below 0)"
          value={settings.fifths}
          min={-7}
          max={7}
          onChange={(fifths) => change({ fifths })}
        />
        <Choice
          label="smallest value"
          value={settings.smallest}
          options={values}
          onChange={(smallest) => change({ smallest })}
        />
        <Tick isOn={settings.triplets} onChange={(triplets) => change({ triplets })}>
          triplets
        </Tick>
        <NumberField
          label="chords within"
          unit="ms"
          value={settings.chordWindowMs}
          min={0}
          max={200}
          onChange={(chordWindowMs) => change({ chordWindowMs })}
        />
        <NumberField
          label="softest velocity"
          value={settings.lowestVelocity}
          min={1}
          max={127}
          onChange={(lowestVelocity) => change({ lowestVelocity })}
        />
        <NumberField
          label="shortest note"
          unit="ms"
          value={settings.shortestMs}
          min={0}
          max={500}
          onChange={(shortestMs) => change({ shortestMs })}
        />
        <Choice
          label="click comes on"
          value={settings.clickChannel ?? 0}
          options={[{ value: 0, text: 'no channel' }, ...channels]}
          onChange={(channel) => change({ clickChannel: channel === 0 ? null : channel })}
        />
        {begins !== 'with the clock' && (
          <NumberField
            label="own tempo"
            value={settings.tempoBpm}
            min={20}
            max={400}
            isDecimal
            onChange={(tempoBpm) => change({ tempoBpm })}
          />
        )}
        {begins === 'after a count-in' && (
          <NumberField
            label="bars of count-in"
            value={settings.countInBars}
            min={1}
            max={4}
            onChange={(countInBars) => change({ countInBars })}
          />
        )}
      </div>
    </Section>
  )
}

/** The staves and their channels: as they arrive, or set up by hand. */
export function ReceiverStaves({
  settings,
  change,
  arrived,
}: {
  settings: ReceiverSettings
  change: Change
  /** The parts that what arrived has made. */
  arrived: readonly ReceiverPart[]
}) {
  const { parts } = settings
  const set = (index: number, part: ReceiverPart | null) =>
    change({
      parts: (parts ?? []).flatMap((each, at) => (at === index ? (part ? [part] : []) : [each])),
    })
  return (
    <Section
      title="Staves"
      state={
        parts ? `${parts.length} ${parts.length === 1 ? 'part' : 'parts'}, by hand` : 'from what arrives'
      }
    >
      <div className="flex flex-wrap items-center gap-5">
        <Choice
          label="set up"
          value={parts ? 'hand' : 'arrives'}
          options={[
            { value: 'arrives', text: 'from what arrives' },
            { value: 'hand', text: 'by hand' },
          ]}
          onChange={(way) => change({ parts: way === 'arrives' ? null : [...arrived] })}
        />
        {parts && (
          <>
            <Button look="quiet" onClick={() => change({ parts: [...parts, onePart(parts)] })}>
              Add a staff
            </Button>
            <Button look="quiet" onClick={() => change({ parts: [...parts, keyboardPart(parts)] })}>
              Add a keyboard
            </Button>
          </>
        )}
      </div>
      {parts?.map((part, index) => (
        <div key={index} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule pt-1.5">
          <input
            aria-label={`Name of part ${index + 1}`}
            className="w-40 rounded border border-rule bg-sheet px-1.5 font-semibold"
            maxLength={60}
            value={part.name}
            onChange={({ target }) => set(index, { ...part, name: target.value })}
          />
          {part.staves.map((staff, place) => (
            <span key={staff.clef} className="flex items-center gap-2">
              {part.staves.length === 1 ? (
                <Choice
                  label={`Clef of ${part.name}`}
                  isLabelHidden
                  value={staff.clef}
                  options={(['treble', 'bass', 'percussion'] as const).map((value) => ({
                    value,
                    text: value,
                  }))}
                  onChange={(clef) => set(index, { ...part, staves: [{ ...staff, clef }] })}
                />
              ) : (
                <span className="text-soft">{place === 0 ? 'upper' : 'lower'}</span>
              )}
              <Choice
                label={`Channel of ${part.name}${part.staves.length === 1 ? '' : place === 0 ? ', upper' : ', lower'}`}
                isLabelHidden
                value={staff.channel}
                options={channels}
                onChange={(channel) =>
                  set(index, {
                    ...part,
                    staves: part.staves.map((each, at) => (at === place ? { ...each, channel } : each)),
                  })
                }
              />
            </span>
          ))}
          {part.staves.length === 2 && part.staves[0]!.channel === part.staves[1]!.channel && (
            <NumberField
              label={`split at ${keyName(part.splitKey)}`}
              value={part.splitKey}
              min={1}
              max={127}
              onChange={(splitKey) => set(index, { ...part, splitKey })}
            />
          )}
          <button
            type="button"
            aria-label={`Take away ${part.name}`}
            className="ml-auto text-soft hover:text-ink"
            onClick={() => set(index, null)}
          >
            <X size={14} aria-hidden />
          </button>
        </div>
      ))}
    </Section>
  )
}

/** The first channel that no staff hears yet. */
function freeChannel(parts: readonly ReceiverPart[]): number {
  const taken = new Set(parts.flatMap(({ staves }) => staves.map(({ channel }) => channel)))
  return channels.find(({ value }) => !taken.has(value) && value !== 10)?.value ?? 1
}

function onePart(parts: readonly ReceiverPart[]): ReceiverPart {
  const channel = freeChannel(parts)
  return { name: `Channel ${channel}`, staves: [{ clef: 'treble', channel }], splitKey: 60 }
}

function keyboardPart(parts: readonly ReceiverPart[]): ReceiverPart {
  const channel = freeChannel(parts)
  return {
    name: 'Keyboard',
    staves: [
      { clef: 'treble', channel },
      { clef: 'bass', channel },
    ],
    splitKey: 60,
  }
}
