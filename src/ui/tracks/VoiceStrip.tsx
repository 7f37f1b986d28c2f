import { Volume2 } from 'lucide-react'
import { useMemo } from 'react'
import { forgetLines } from '@/core/project/apart'
import { projectEndTicks, soundingNotes } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { voicesOf } from '@/core/project/voiceEdits'
import { Button } from '../controls/Button'
import { Tick } from '../controls/Tick'
import { useSession, useView } from '../workspace/sessionContext'
import { selectNotes, viewStore } from '../workspace/viewStore'
import { DoubtWalk } from './bench/DoubtWalk'
import { lineThread } from './strands'
import { useVoiceEdits } from './useVoiceEdits'

/** The voices of a track: each can be chosen and heard alone; a correction is carried on from here. */
export function VoiceStrip({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const notes = soundingNotes(track)
  const areShown = useView((state) => state.areVoicesShown)
  const partition = useView((state) => state.partition)
  const { canCarryOn, carryOnFrom } = useVoiceEdits(track)
  const voices = useMemo(() => voicesOf(notes), [notes])
  const areStavesTold = useMemo(() => notes.some(({ staff }) => staff !== undefined), [notes])
  if ((voices.length === 0 && !areStavesTold) || partition?.trackId === track.id) return null
  const inVoice = (voice: number) => notes.filter((note) => note.voice === voice).map(({ id }) => id)
  const endTicks = projectEndTicks(project)
  const hear = (voice: number) =>
    void session.hearAlone(
      `voice ${voice} of ${track.name}`,
      new Map([[track.id, new Set(inVoice(voice))]]),
      {
        startTicks: session.positionTicks() < endTicks ? session.positionTicks() : 0,
        endTicks,
      },
    )
  return (
    <fieldset
      className="flex min-h-8 shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule bg-desk px-4 py-0.5 text-[13px]"
      aria-label="Voices"
    >
      {voices.length > 0 ? (
        <Tick isOn={areShown} onChange={(areVoicesShown) => viewStore.setState({ areVoicesShown })}>
          voices in colour
        </Tick>
      ) : (
        <span>Each note is told its staff: two hands.</span>
      )}
      {voices.map((voice) => (
        <span key={voice} className="inline-flex items-center gap-0.5">
          <Button
            look="quiet"
            className="gap-1 px-1 py-0"
            title={`Select voice ${voice}`}
            onClick={() => selectNotes(inVoice(voice))}
          >
            <span
              className="inline-flex h-4 w-4 items-center justify-center rounded-sm text-[10px] font-bold text-white"
              style={{ background: lineThread(track.thread, voice - 1).colour }}
              aria-hidden
            >
              {voice}
            </span>
            voice {voice}
          </Button>
          <Button
            look="quiet"
            className="px-1 py-0"
            aria-label={`Hear voice ${voice} alone`}
            title="Hear it alone"
            onClick={() => hear(voice)}
          >
            <Volume2 size={14} aria-hidden />
          </Button>
        </span>
      ))}
      <DoubtWalk track={track} />
      <span className="ml-auto flex items-center gap-2">
        {voices.length > 0 && (
          <Button
            className="px-2 py-0"
            disabled={!canCarryOn}
            title="What follows in the two voices changes places, up to the next rest or hand-set note (.)"
            onClick={carryOnFrom}
          >
            Carry the correction on
          </Button>
        )}
        <Button
          look="quiet"
          className="px-2 py-0"
          onClick={() =>
            session.store
              .getState()
              .apply(`forget the voices of “${track.name}”`, (before) => forgetLines(before, track.id))
          }
        >
          Forget {voices.length > 0 ? 'the voices' : 'the staves'}
        </Button>
      </span>
    </fieldset>
  )
}
