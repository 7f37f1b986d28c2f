import { FileMusic, UserPlus, Users } from 'lucide-react'
import { useRef } from 'react'
import { seatedStandIns, seatStandIns, standInPlayers } from '@/core/demo/harbourEvening'
import { standInAt } from '@/core/demo/soundingPlayers'
import { addTrack } from '@/core/project/commands'
import type { WiringRemark } from '@/core/wiring/wiringRemark'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { FileInput } from '../controls/FileInput'
import { Section } from '../controls/Section'
import { Tick } from '../controls/Tick'
import { JoinBySound } from '../soundIn/JoinBySound'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { CablesSection } from './CablesSection'
import { ClockSection } from './ClockSection'
import { RemarkNote } from './Remark'
import { SetupsSection } from './SetupsSection'
import { TracksFromFile } from './TracksFromFile'

/** Beside the threads: what is wrong with the wiring and its remedies, who can join, cables, clock, saved set-ups. */
export function PlayersPanel({
  remarks,
  onOpen,
}: {
  remarks: readonly WiringRemark[]
  onOpen: (id: string) => void
}) {
  return (
    <aside
      className="border-t border-rule bg-paper px-4 py-3 lg:overflow-y-auto lg:border-t-0 lg:border-l"
      aria-label="The wiring"
    >
      <ColumnHeading>The wiring</ColumnHeading>
      <Remarks remarks={remarks} onOpen={onOpen} />
      <JoinSection />
      <JoinBySound />
      <CablesSection />
      <ClockSection />
      <SetupsSection />
    </aside>
  )
}

function Remarks({ remarks, onOpen }: { remarks: readonly WiringRemark[]; onOpen: (id: string) => void }) {
  const accepted = useProject().acceptedRemarks.length
  if (remarks.length === 0)
    return (
      <p className="mb-2 rounded-md border-l-4 border-verdigris bg-sheet px-3 py-1.5 text-[13px]">
        Every player reaches a track of their own.
        {accepted > 0 && ` ${accepted} ${accepted === 1 ? 'remark is' : 'remarks are'} meant so.`}
      </p>
    )
  return (
    <ul className="mb-2 space-y-2" aria-label="Remarks on the wiring">
      {remarks.map((remark) => (
        <li
          key={remark.id}
          className="rounded-md border border-rule border-l-4 border-l-weld bg-sheet px-2.5 py-1.5 text-[13px]"
        >
          <RemarkNote
            remark={remark}
            onOpen={() => onOpen(remark.trackIds[0] ?? remark.sourceIds[0] ?? '')}
          />
        </li>
      ))}
    </ul>
  )
}

/** Who can take a seat: stand-ins, whoever plays, a file. */
function JoinSection() {
  const session = useSession()
  const project = useProject()
  const isRehearsing = useLive((state) => state.isRehearsing)
  const isStopped = useLive((state) => state.transport.state === 'stopped')
  const isSeatingEveryone = useLive((state) => state.isSeatingEveryone)
  const fileInput = useRef<HTMLInputElement>(null)
  const apply = session.store.getState().apply
  const seated = seatedStandIns(project).length
  const absent = standInPlayers.length - seated
  const canPerform = project.sources.some(
    ({ kind, soundInput }) =>
      kind === 'standIn' ||
      kind === 'midiFile' ||
      (soundInput !== null && standInAt(soundInput.deviceId) !== undefined),
  )
  const seatFile = (file: File) =>
    file
      .arrayBuffer()
      .then((bytes) => session.files.seat(file.name, new Uint8Array(bytes)))
      .catch((error) =>
        session.notify(
          `“${file.name}” cannot play, and nothing was changed: ${error.message ?? error}.`,
          true,
        ),
      )
  return (
    <Section title="Who joins" state={canPerform ? 'ready to play' : 'nobody yet'} isOpenAtFirst>
      <div className="flex flex-wrap gap-1.5">
        {absent > 0 && (
          <Button onClick={() => apply('seat stand-in players', (before) => seatStandIns(before))}>
            <UserPlus size={15} aria-hidden />{' '}
            {seated === 0 ? 'Seat six players' : `Seat ${absent === 1 ? 'one more' : `${absent} more`}`}
          </Button>
        )}
        {canPerform &&
          (isRehearsing ? (
            <Button onClick={session.stop}>Thank you, stop</Button>
          ) : (
            <Button onClick={() => void session.rehearse()} disabled={!isStopped}>
              <Users size={15} aria-hidden /> Let them play
            </Button>
          ))}
        <Button onClick={() => fileInput.current?.click()}>
          <FileMusic size={15} aria-hidden /> A file that plays
        </Button>
        <FileInput
          input={fileInput}
          label="MIDI file that plays"
          accept=".mid,.midi,.smf,.kar,audio/midi"
          onPick={([file]) => file && void seatFile(file)}
        />
        <Button
          onClick={() =>
            apply('add a track', (before) =>
              addTrack(before, { name: 'New track', instrument: { kind: 'program', program: 0 } }),
            )
          }
        >
          Add a track
        </Button>
        <TracksFromFile />
      </div>
      <Tick isOn={isSeatingEveryone} onChange={session.seatEveryone}>
        a track for everyone who plays
      </Tick>
      {isSeatingEveryone && (
        <p className="text-[12px] text-soft">Listening: each stream gets a named track at its first note.</p>
      )}
      {canPerform && (
        <p className="text-[12px] text-soft">
          Stand-ins and files play when you record. To see the threads first, let them play.
        </p>
      )}
    </Section>
  )
}
