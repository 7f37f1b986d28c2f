import { useRef } from 'react'
import type { ClickSettings } from '@/core/capture/clickSettings'
import { type PieceSettings, setPiece } from '@/core/project/settings'
import { markBarNumbers, markedBars } from '@/core/project/stretch'
import { streamName } from '@/core/wiring/portsInUse'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { FileInput } from '../controls/FileInput'
import { NumberField } from '../controls/NumberField'
import { Section } from '../controls/Section'
import { SliderRow } from '../controls/Slider'
import { Tick } from '../controls/Tick'
import { usePortsToSend } from '../players/portsToSend'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { takeWayOptions, takeWayWords } from './TakeWayChoice'

/** How a recording begins, turns and ends; the click, a backing track, listening, and where every note went. */
export function HowToRecord() {
  return (
    <div className="mt-2 border-t border-rule">
      <StretchSection />
      <ClickSection />
      <BackingSection />
      <ListeningSection />
      <HeardSection />
    </div>
  )
}

function useChange() {
  const session = useSession()
  return (label: string, settings: PieceSettings, group?: string) =>
    session.store.getState().apply(label, (before) => setPiece(before, settings), group)
}

function StretchSection() {
  const project = useProject()
  const session = useSession()
  const change = useChange()
  const { recording } = project
  const bars = markedBars(project)
  const mark = (first: number, last: number) =>
    session.store.getState().apply('mark a stretch', (before) => markBarNumbers(before, first, last))
  return (
    <Section
      title="Stretch and loop"
      isOpenAtFirst
      state={bars ? `bars ${bars.first}–${bars.last}${recording.isLooping ? ', looped' : ''}` : 'whole piece'}
    >
      <div className="flex flex-wrap items-center gap-3">
        <NumberField
          label="from bar"
          className="w-11"
          value={bars?.first ?? 1}
          min={1}
          max={9999}
          onChange={(first) => mark(first, Math.max(first, bars?.last ?? first + 3))}
        />
        <NumberField
          label="to bar"
          className="w-11"
          value={bars?.last ?? 4}
          min={1}
          max={9999}
          onChange={(last) => mark(Math.min(last, bars?.first ?? 1), last)}
        />
        <Button className="px-2 py-0.5 text-[12px]" disabled={bars !== null} onClick={() => mark(1, 4)}>
          {bars ? 'marked' : 'Mark it'}
        </Button>
      </div>
      <div className="flex items-center justify-between gap-2">
        <Tick
          isOn={recording.isLooping}
          isDisabled={!bars}
          onChange={(isLooping) =>
            change(isLooping ? 'loop the stretch' : 'end the loop', {
              recording: { ...recording, isLooping },
            })
          }
        >
          loop it: each pass is a take
        </Tick>
        {bars && (
          <Button
            look="quiet"
            className="px-1.5 py-0.5 text-[12px]"
            onClick={() =>
              change('mark nothing', { recording: { ...recording, stretch: null, isLooping: false } })
            }
          >
            no stretch
          </Button>
        )}
      </div>
      <Choice
        label="onto music"
        value={recording.takeMode}
        options={takeWayOptions}
        onChange={(takeMode) =>
          change(`takes: ${takeWayWords[takeMode]}`, { recording: { ...recording, takeMode } })
        }
      />
      <Tick
        isOn={recording.isThrownEachTurn}
        onChange={(isThrownEachTurn) =>
          change('throws in a loop', { recording: { ...recording, isThrownEachTurn } })
        }
      >
        chance throws anew in each turn that is played
      </Tick>
      <p className="text-[12px] text-soft">
        A note just before the start belongs to its downbeat, one held over the end is whole. Drag on the bar
        numbers to mark a stretch.
      </p>
    </Section>
  )
}

const channels = Array.from({ length: 16 }, (_, index) => index + 1)

function ClickSection() {
  const { click } = useProject()
  const change = useChange()
  const ports = usePortsToSend(click.portId)
  const set = (label: string, fields: Partial<ClickSettings>, group?: string) =>
    change(label, { click: { ...click, ...fields } }, group)
  const output = click.portId ?? click.side
  return (
    <Section
      title="Click"
      state={
        click.isOn ? `${click.subdivision === 1 ? 'on the beat' : `${click.subdivision} to the beat`}` : 'off'
      }
    >
      <Tick isOn={click.hasAccent} onChange={(hasAccent) => set('accent of the click', { hasAccent })}>
        accent on the first beat
      </Tick>
      <Choice
        label="clicks to the beat"
        value={click.subdivision}
        options={([1, 2, 3, 4] as const).map((value) => ({ value, text: String(value) }))}
        onChange={(subdivision) => set('subdivision of the click', { subdivision })}
      />
      <SliderRow
        name="level"
        value={click.level}
        min={0}
        max={1}
        step={0.05}
        valueText={`${Math.round(click.level * 100)} %`}
        onChange={(level) => set('level of the click', { level }, 'click level')}
      />
      <Choice
        label="goes to"
        value={output}
        options={[
          { value: 'both', text: 'both sides' },
          { value: 'left', text: 'the left side only' },
          { value: 'right', text: 'the right side only' },
          ...ports,
        ]}
        onChange={(to) =>
          set(
            'output of the click',
            to === 'both' || to === 'left' || to === 'right' ? { side: to, portId: null } : { portId: to },
          )
        }
      />
      {click.portId !== null && (
        <Choice
          label="on channel"
          value={click.channel}
          options={channels.map((value) => ({ value, text: String(value) }))}
          onChange={(channel) => set('channel of the click', { channel })}
        />
      )}
    </Section>
  )
}

function BackingSection() {
  const session = useSession()
  const project = useProject()
  const change = useChange()
  const fileInput = useRef<HTMLInputElement>(null)
  const { backing } = project
  const bringIn = (file: File) =>
    session.backing
      .bringIn(file)
      .catch((error) =>
        session.notify(
          `“${file.name}” was not brought in: ${error.message ?? error}. Nothing was changed.`,
          true,
        ),
      )
  return (
    <Section title="Backing track" state={backing ? (backing.isOn ? 'plays along' : 'rests') : 'none'}>
      {backing && (
        <>
          <p className="truncate font-serif font-semibold">{backing.name}</p>
          <Tick
            isOn={backing.isOn}
            onChange={(isOn) =>
              change(isOn ? 'play the backing track' : 'rest the backing track', {
                backing: { ...backing, isOn },
              })
            }
          >
            plays along
          </Tick>
          <NumberField
            label="begins"
            value={backing.offsetMs}
            min={-3_600_000}
            max={3_600_000}
            unit="ms after the first bar line"
            className="w-16"
            onChange={(offsetMs) => change('move the backing track', { backing: { ...backing, offsetMs } })}
          />
          <SliderRow
            name="level"
            value={backing.level}
            min={0}
            max={1}
            step={0.02}
            valueText={`${Math.round(backing.level * 100)} %`}
            onChange={(level) => {
              session.backing.setLevel(level)
              change('level of the backing track', { backing: { ...backing, level } }, 'backing level')
            }}
          />
        </>
      )}
      <div className="flex gap-1.5">
        <Button onClick={() => fileInput.current?.click()}>
          {backing ? 'Take another file' : 'Bring in an audio file'}
        </Button>
        {backing && (
          <Button look="quiet" onClick={() => change('take the backing track out', { backing: null })}>
            Take it out
          </Button>
        )}
      </div>
      <FileInput
        input={fileInput}
        label="Audio file for the backing track"
        accept="audio/*"
        onPick={([file]) => file && void bringIn(file)}
      />
      <p className="text-[12px] text-soft">
        It is stored with the project, and goes along when that is saved to a file.
      </p>
    </Section>
  )
}

function ListeningSection() {
  const { isListening } = useProject()
  const notes = useLive((state) => state.listenedNotes)
  const change = useChange()
  return (
    <Section
      title="Always listening"
      state={isListening ? `on, ${notes} ${notes === 1 ? 'note' : 'notes'} kept` : 'off'}
    >
      <Tick
        isOn={isListening}
        onChange={(isOn) => change(isOn ? 'listen always' : 'listen no more', { isListening: isOn })}
      >
        remember what is played outside takes
      </Tick>
      <p className="text-[12px] text-soft">
        The last half hour, in this tab only. “Keep” in the bar below makes it a take, lined up to the tempo.
      </p>
    </Section>
  )
}

/** The ledger at the source: what each stream sent since the project was opened, and what became of it. */
function HeardSection() {
  const project = useProject()
  const streams = useLive((state) => state.streams)
  const total = streams.reduce((sum, stream) => sum + stream.noteOns, 0)
  return (
    <Section title="Where every note went" state={`${total} heard`}>
      {streams.length === 0 ? (
        <p className="text-[12px] text-soft">Nothing has been played since this project was opened.</p>
      ) : (
        <table className="w-full text-[12px]" data-testid="heard-streams">
          <thead>
            <tr className="text-right text-soft">
              <th className="text-left font-normal">stream</th>
              <th className="font-normal">heard</th>
              <th className="font-normal" title="While nothing was recording">
                outside
              </th>
              <th className="font-normal">in takes</th>
            </tr>
          </thead>
          <tbody>
            {streams.map(({ portId, channel, noteOns, outside }) => (
              <tr key={`${channel} ${portId}`} className="text-right">
                <td className="max-w-[130px] truncate text-left">
                  {streamName(project, { portId, channel })}
                </td>
                <td>{noteOns}</td>
                <td>{outside}</td>
                <td>{noteOns - outside}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Section>
  )
}
