import { useMemo } from 'react'
import {
  type ArpeggioSettings,
  arpeggioDirections,
  arpeggioRates,
  defaultArpeggio,
} from '@/core/effects/arpeggio'
import { printChain } from '@/core/effects/print'
import { changeTrack, printEffects, setEffects } from '@/core/project/commands'
import { soundingNotes } from '@/core/project/create'
import type { EffectSlot, Project, Track } from '@/core/project/schema'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Slider } from '../controls/Slider'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { useProject, useSession, useView } from '../workspace/sessionContext'
import { goTo, selectTrack } from '../workspace/viewStore'
import { SourceAndResult } from './SourceAndResult'

/** Note effects of a track: what goes in, what comes out, and printing the result as notes. */
export function EffectsView() {
  const project = useProject()
  const trackId = useView((state) => state.trackId)
  const track = project.tracks.find((candidate) => candidate.id === trackId) ?? project.tracks[0]
  if (!track) return <p className="p-8 text-soft">No tracks yet: an effect needs notes to work on.</p>
  return (
    <div className="grid h-full grid-cols-[230px_1fr]">
      <nav aria-label="Tracks with effects" className="overflow-y-auto border-r border-rule py-3">
        <ul>
          {project.tracks.map((each) => {
            const isOn = each.effects.some((slot) => slot.isOn)
            return (
              <li key={each.id}>
                <button
                  type="button"
                  aria-current={each.id === track.id ? 'true' : undefined}
                  onClick={() => selectTrack(each.id)}
                  className={`w-full px-4 py-2 text-left ${each.id === track.id ? 'bg-desk' : 'hover:bg-desk'}`}
                  style={{ borderLeft: `5px solid ${threadOf(each.thread).colour}` }}
                >
                  <span className="block truncate font-serif text-[15px] font-semibold">{each.name}</span>
                  <span className="text-[12px] text-soft">
                    {isOn
                      ? 'arpeggio on'
                      : each.effects.length > 0
                        ? 'arpeggio off'
                        : each.printedFromTrackId
                          ? 'printed notes'
                          : 'as played'}
                  </span>
                </button>
              </li>
            )
          })}
        </ul>
      </nav>
      <TrackEffects track={track} project={project} />
    </div>
  )
}

function TrackEffects({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const slot = track.effects[0]
  const source = soundingNotes(track)
  const printedTrack = project.tracks.findLast((candidate) => candidate.printedFromTrackId === track.id)
  const sourceTrack = project.tracks.find((candidate) => candidate.id === track.printedFromTrackId)
  const preview = useMemo(() => {
    const active = track.effects.map((each) => ({ ...each, isOn: true }))
    return active.length > 0 ? printChain(source, active, 1).notes : []
  }, [track.effects, source])

  const addArpeggio = () =>
    apply('put an arpeggio', (before) => {
      const slotId = `effect-${before.nextSerial}`
      const next = setEffects(before, track.id, [
        ...track.effects,
        { id: slotId, kind: 'arpeggio', isOn: true, settings: defaultArpeggio },
      ])
      return { ...next, nextSerial: before.nextSerial + 1 }
    })
  const changeSlot = (label: string, change: (old: EffectSlot) => EffectSlot, group?: string) =>
    apply(
      label,
      (before) =>
        changeTrack(before, track.id, (old) => ({
          ...old,
          effects: old.effects.map((each) => (each.id === slot?.id ? change(each) : each)),
        })),
      group,
    )
  const print = () => {
    let printedTrackId: string | null = null
    apply(`print “${track.name}”`, (before) => {
      const result = printEffects(before, track.id)
      printedTrackId = result.printedTrackId
      return result.project
    })
    if (printedTrackId) selectTrack(printedTrackId)
  }
  const bringBack = (sourceId: string) =>
    apply('bring the effect back', (before) => {
      const printed = before.tracks
        .filter((candidate) => candidate.printedFromTrackId === sourceId)
        .map((candidate) => candidate.id)
      return {
        ...before,
        tracks: before.tracks.map((candidate) =>
          candidate.id === sourceId
            ? {
                ...candidate,
                isMuted: false,
                effects: candidate.effects.map((each) => ({ ...each, isOn: true })),
              }
            : printed.includes(candidate.id)
              ? { ...candidate, isMuted: true }
              : candidate,
        ),
      }
    })

  return (
    <div className="flex min-w-0 flex-col overflow-y-auto px-7 py-4">
      <ColumnHeading
        end={
          !slot && !sourceTrack ? (
            <Button look="main" onClick={addArpeggio}>
              Put an arpeggio on {track.name}
            </Button>
          ) : undefined
        }
      >
        {track.name}
      </ColumnHeading>

      {!slot && !sourceTrack && (
        <p className="max-w-2xl text-soft">
          An arpeggio plays the keys that are held one after the other, while you play and from the track.
          When you like what you hear, print it: the result becomes ordinary notes.
        </p>
      )}

      {slot && (
        <section aria-label="Arpeggio" className="rounded-lg border border-rule bg-sheet px-5 py-4">
          <div className="flex items-center gap-4">
            <h3 className="font-serif text-base font-semibold">Arpeggio</h3>
            <Tick
              isOn={slot.isOn}
              onChange={(isOn) =>
                changeSlot(isOn ? 'switch the arpeggio on' : 'switch the arpeggio off', (old) => ({
                  ...old,
                  isOn,
                }))
              }
            >
              on
            </Tick>
            <Button
              look="quiet"
              className="ml-auto"
              onClick={() =>
                apply('take the arpeggio off', (before) =>
                  setEffects(
                    before,
                    track.id,
                    track.effects.filter((each) => each.id !== slot.id),
                  ),
                )
              }
            >
              Take it off
            </Button>
            <Button look="main" disabled={!slot.isOn || source.length === 0} onClick={print}>
              Print {slot.isOn ? `${preview.length} notes` : ''}
            </Button>
          </div>
          <ArpeggioControls
            settings={slot.settings}
            onChange={(label, fields, group) =>
              changeSlot(label, (old) => ({ ...old, settings: { ...old.settings, ...fields } }), group)
            }
          />
        </section>
      )}

      {(printedTrack || sourceTrack) && (
        <div
          className="mt-3 flex flex-wrap items-center gap-2 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-4 py-2 text-[13px]"
          role="status"
        >
          <span className="mr-auto">
            {printedTrack
              ? track.isMuted
                ? `${track.name} rests and its arpeggio is off: what it made is now notes on “${printedTrack.name}”.`
                : `“${printedTrack.name}” was printed from here.`
              : `These notes were printed from ${sourceTrack!.name}. Each line below leads to the note it came from.`}
          </span>
          {printedTrack && (
            <Button onClick={() => selectTrack(printedTrack.id)}>Go to the printed notes</Button>
          )}
          {sourceTrack && (
            <Button onClick={() => selectTrack(sourceTrack.id)}>Go to {sourceTrack.name}</Button>
          )}
          <Button onClick={() => bringBack((sourceTrack ?? track).id)}>Bring the effect back</Button>
          {sourceTrack && <Button onClick={() => goTo('tracks')}>Edit the notes</Button>}
        </div>
      )}

      {(slot || sourceTrack) && (
        <SourceAndResult
          source={sourceTrack ? soundingNotes(sourceTrack) : source}
          result={sourceTrack ? source : preview}
          sourceThread={threadOf((sourceTrack ?? track).thread)}
          resultThread={threadOf(sourceTrack ? track.thread : project.tracks.length)}
          resultTitle={sourceTrack ? 'printed' : slot?.isOn ? 'what comes out' : 'what would come out'}
        />
      )}
    </div>
  )
}

function ArpeggioControls({
  settings,
  onChange,
}: {
  settings: ArpeggioSettings
  onChange: (label: string, fields: Partial<ArpeggioSettings>, group?: string) => void
}) {
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-7 gap-y-3">
      <Choice
        label="Rate"
        value={settings.rate}
        options={Object.keys(arpeggioRates).map((rate) => ({
          value: rate as ArpeggioSettings['rate'],
          text: rate,
        }))}
        onChange={(rate) => onChange(`rate ${rate}`, { rate })}
      />
      <Choice
        label="Direction"
        value={settings.direction}
        options={arpeggioDirections.map((direction) => ({ value: direction, text: direction }))}
        onChange={(direction) => onChange(`direction ${direction}`, { direction })}
      />
      <Choice
        label="Octaves"
        value={settings.octaves}
        options={[1, 2, 3, 4].map((octaves) => ({ value: octaves, text: String(octaves) }))}
        onChange={(octaves) => onChange(`${octaves} octaves`, { octaves })}
      />
      <div className="flex items-center gap-2 text-[13px]">
        <span className="text-soft">Gate</span>
        <Slider
          label="Gate"
          value={settings.gate}
          min={0.05}
          max={1}
          step={0.01}
          valueText={`${Math.round(settings.gate * 100)} %`}
          onChange={(gate) => onChange('change the gate', { gate }, 'gate')}
        />
        <span className="w-10 font-semibold">{Math.round(settings.gate * 100)} %</span>
      </div>
      <div className="flex items-center gap-2 text-[13px]">
        <label className="flex items-center gap-2">
          <span className="text-soft">Seed</span>
          <input
            type="number"
            min={0}
            max={4294967295}
            className="w-28 rounded border border-rule bg-sheet px-1.5 py-0.5 font-semibold"
            value={settings.seed}
            onChange={(event) => {
              const seed = Math.floor(Number(event.target.value))
              if (seed >= 0 && seed <= 0xffffffff) onChange('change the seed', { seed }, 'seed')
            }}
          />
        </label>
        <Button
          className="px-2 py-0.5"
          disabled={settings.direction !== 'by chance'}
          title="A new order; the seed keeps it"
          onClick={() => onChange('another throw', { seed: Math.floor(Math.random() * 1_000_000) })}
        >
          Another throw
        </Button>
      </div>
    </div>
  )
}
