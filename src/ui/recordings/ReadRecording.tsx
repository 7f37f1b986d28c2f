import { Ear, FileAudio } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useStore } from 'zustand'
import { highestConcertHz, type ListenerPreset, lowestConcertHz } from '@/core/pitch/listenerSettings'
import type { HeardNote } from '@/core/pitch/readLine'
import { usualConfidence } from '@/core/pitch/readSound'
import { remarkOf, type SoundProblem } from '@/core/pitch/soundRemarks'
import type { Sound } from '@/core/sound/readWav'
import { createRecordings } from '@/state/recordings'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { Slider } from '../controls/Slider'
import { presetOptions } from '../soundIn/presetWords'
import { HeardNotes } from './HeardNotes'

const asHeard = (notes: readonly HeardNote[]) => notes

/** Reads the sound of a file and offers the notes that are in it. */
export function ReadRecording({
  file,
  taking,
  preset = 'any',
  tempoBpm,
  told = asHeard,
  onTake,
  onLeave,
}: {
  file: File
  /** What taking the notes is called. */
  taking: string
  /** What it is probably played by. */
  preset?: ListenerPreset
  /** Of the piece they come into; null: bars are found. */
  tempoBpm: number | null
  /** At what moments they are written. */
  told?: (notes: readonly HeardNote[]) => readonly HeardNote[]
  onTake: (midi: File) => Promise<void>
  onLeave: () => void
}) {
  const [recordings] = useState(createRecordings)
  const { share, read, problem } = useStore(recordings.state)
  const [decoded, setDecoded] = useState<Sound | null>(null)
  const [refusal, setRefusal] = useState<string | null>(null)
  const [wish, setWish] = useState({ preset, concertHz: 440, hasChords: false })
  const [threshold, setThreshold] = useState(usualConfidence)
  const [byHand, setByHand] = useState<ReadonlyMap<HeardNote, boolean>>(new Map())
  const [isTaking, setIsTaking] = useState(false)
  const [notTaken, setNotTaken] = useState<string | null>(null)
  useEffect(() => {
    let isCurrent = true
    recordings.decode(file).then(
      (sound) => isCurrent && setDecoded(sound),
      (error: Error) => isCurrent && setRefusal(error.message),
    )
    return () => {
      isCurrent = false
      recordings.stop()
    }
  }, [recordings, file])

  const [address, setAddress] = useState<string | null>(null)
  useEffect(() => {
    const made = URL.createObjectURL(file)
    setAddress(made)
    return () => URL.revokeObjectURL(made)
  }, [file])

  const isTaken = (note: HeardNote) =>
    byHand.get(note) ?? (!read?.wish.hasChords || note.confidence >= threshold)
  const taken = read?.notes.filter(isTaken) ?? []
  const take = async () => {
    if (isTaking || !read) return
    setIsTaking(true)
    setNotTaken(null)
    try {
      await onTake(
        await recordings.midiFile(file.name.replace(/\.[^.]*$/, ''), told(taken), read.wish.preset, tempoBpm),
      )
    } catch (error) {
      setNotTaken(error instanceof Error ? error.message : String(error))
    } finally {
      setIsTaking(false)
    }
  }
  return (
    <section
      aria-label="Read a recording"
      className="w-full space-y-3 border-l-4 border-verdigris bg-sheet p-3.5"
    >
      <h2 className="flex items-center gap-2 font-serif text-lg font-semibold">
        <FileAudio size={17} aria-hidden className="shrink-0" />
        <span className="min-w-0 truncate" title={file.name}>
          {file.name}
        </span>
        {decoded && (
          <span className="whitespace-nowrap font-sans text-[13px] font-normal text-soft">
            {lengthOf(decoded)}
          </span>
        )}
      </h2>
      {refusal !== null ? (
        <div className="flex flex-wrap items-center justify-between gap-3">
          <p role="alert" className="border-l-4 border-live pl-2.5">
            “{file.name}” was not read, and nothing was changed: {refusal}.
          </p>
          <Button look="quiet" onClick={onLeave}>
            Leave it
          </Button>
        </div>
      ) : (
        <>
          {decoded && address && (
            // biome-ignore lint/a11y/useMediaCaption: it is the user's own music
            <audio controls src={address} aria-label="The recording" className="h-8 w-full max-w-md" />
          )}
          <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
            <Choice
              label="It holds"
              value={wish.hasChords ? 'chords' : 'line'}
              options={[
                { value: 'line', text: 'one note at a time' },
                { value: 'chords', text: 'several notes at once' },
              ]}
              onChange={(kind) => setWish({ ...wish, hasChords: kind === 'chords' })}
            />
            <Choice
              label="played by"
              value={wish.preset}
              options={presetOptions}
              onChange={(preset) => setWish({ ...wish, preset })}
            />
            <NumberField
              label="A4 in hertz"
              value={wish.concertHz}
              min={lowestConcertHz}
              max={highestConcertHz}
              onChange={(concertHz) => setWish({ ...wish, concertHz })}
            />
          </div>
          <div className="flex flex-wrap items-center gap-3">
            <Button
              look={read ? 'plain' : 'main'}
              disabled={!decoded || share !== null}
              onClick={() => decoded && void recordings.read(decoded, wish)}
            >
              <Ear size={15} aria-hidden /> {read ? 'Read it again' : 'Read its notes'}
            </Button>
            {share !== null && (
              <Button look="quiet" onClick={recordings.stop}>
                Stop
              </Button>
            )}
            <Button look="quiet" onClick={onLeave}>
              Leave it
            </Button>
            <span role="status" className="text-soft">
              {!decoded
                ? 'Taking the sound out of the file…'
                : share !== null
                  ? `${Math.floor(share * 100)} % read…`
                  : ''}
            </span>
          </div>
        </>
      )}
      {(problem ?? notTaken) !== null && (
        <p role="alert" className="border-l-4 border-live pl-2.5">
          {problem !== null ? `It was not read: ${problem}.` : `The notes were not taken: ${notTaken}.`}
        </p>
      )}
      {read && (
        <>
          {read.problems.length > 0 && (
            <ul className="space-y-1 border-l-4 border-live pl-2.5">
              {read.problems.map((each) => (
                <li key={each}>{remarkOf[each]}</li>
              ))}
            </ul>
          )}
          {read.notes.length === 0 && read.problems.length === 0 && <p>No note was found in it.</p>}
          {read.notes.length > 0 && (
            <HeardNotes
              notes={read.notes}
              seconds={read.seconds}
              isTaken={isTaken}
              onToggle={(note) => setByHand(new Map(byHand).set(note, !isTaken(note)))}
            />
          )}
          {read.wish.hasChords && (
            <div className="flex flex-wrap items-center gap-3 text-[13px]">
              <span className="text-soft">only what is sure</span>
              <Slider
                label="How much is taken"
                value={1 - threshold}
                min={0.05}
                max={0.92}
                step={0.01}
                valueText={`notes of which it is ${Math.round(threshold * 100)} % sure and more`}
                className="w-56"
                onChange={(value) => setThreshold(1 - value)}
              />
              <span className="text-soft">everything heard</span>
            </div>
          )}
          <div className="flex flex-wrap items-center gap-4">
            <Button look="main" disabled={taken.length === 0 || isTaking} onClick={take}>
              {taking}
            </Button>
            <span data-testid="heard-notes">
              <span className="font-semibold tabular-nums">{taken.length.toLocaleString('en')}</span>
              {taken.length === 1 ? ' note' : ' notes'}
              {read.notes.length > taken.length && `, ${read.notes.length - taken.length} doubtful ones left`}
            </span>
            {read.notes.length > 0 && !read.problems.some((each) => hasNoTuning.has(each)) && (
              <span className="text-soft">{tuningWords(read.tuningCents, read.wish.concertHz)}</span>
            )}
          </div>
        </>
      )}
    </section>
  )
}

/** What has these problems has pitches anywhere. */
const hasNoTuning: ReadonlySet<SoundProblem> = new Set(['noise', 'speech', 'hums'])

function lengthOf({ sampleRate, channels }: Sound): string {
  const seconds = (channels[0]?.length ?? 0) / sampleRate
  const whole = Math.floor(seconds / 60)
  return whole > 0 ? `${whole} min ${Math.round(seconds - whole * 60)} s` : `${seconds.toFixed(1)} s`
}

function tuningWords(cents: number, concertHz: number): string {
  const rounded = Math.round(cents)
  if (Math.abs(rounded) < 3) return `In tune with A4 = ${concertHz} Hz`
  return `Tuned ${Math.abs(rounded)} cents ${rounded > 0 ? 'above' : 'below'} A4 = ${concertHz} Hz`
}
