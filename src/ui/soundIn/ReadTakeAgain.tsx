import type { ListenerPreset } from '@/core/pitch/listenerSettings'
import type { HeardNote } from '@/core/pitch/readLine'
import { bringInto } from '@/core/project/bringInto'
import { ReadRecording } from '../recordings/ReadRecording'
import { useSession } from '../workspace/sessionContext'

/** The sound of a take that is read again, and where its notes come in. */
export interface TakeReading {
  readonly file: File
  readonly atBar: number
  readonly preset: ListenerPreset
  readonly tempoBpm: number
  /** At what moments the notes are written, so that they come in where they were played. */
  readonly told: (notes: readonly HeardNote[]) => readonly HeardNote[]
}

/** Reads the sound of a take otherwise, or for chords; what is taken of it gets a track of its own. */
export function ReadTakeAgain({ reading, onLeave }: { reading: TakeReading; onLeave: () => void }) {
  const session = useSession()
  const { file, atBar, preset, tempoBpm, told } = reading
  const name = file.name.replace(/\.wav$/, '')
  const take = async (midi: File) => {
    const bytes = new Uint8Array(await midi.arrayBuffer())
    const identity = { id: 'brought', name, nowMs: 0 }
    const opened = await session.computing.run((compute) => compute.open(bytes, identity))
    // The piece as it is by now: it may have been worked on while the notes were written.
    const next = bringInto(session.store.getState().project, opened.project, {
      atBar,
      time: 'piece',
      inPlaceOf: null,
    })
    if ('problem' in next) throw new Error(next.problem)
    session.store.getState().apply(`read ${name} again`, () => next)
    session.notify('What was read is on a track of its own, below; what was there is as it was.', false)
    onLeave()
  }
  return (
    <div className="absolute inset-0 z-10 overflow-y-auto bg-paper">
      <ReadRecording
        key={file.name}
        file={file}
        taking="Take these notes"
        preset={preset}
        tempoBpm={tempoBpm}
        told={told}
        onTake={take}
        onLeave={onLeave}
      />
    </div>
  )
}
