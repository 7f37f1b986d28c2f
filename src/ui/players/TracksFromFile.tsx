import { FolderInput } from 'lucide-react'
import { useRef, useState } from 'react'
import { openableEndings } from '@/core/formats/openFile'
import { type BringingInto, bringInto } from '@/core/project/bringInto'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { soundEndings } from '@/core/sound/holdsSound'
import { isRecording } from '@/state/recordings'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { FileInput } from '../controls/FileInput'
import { NumberField } from '../controls/NumberField'
import { ReadRecording } from '../recordings/ReadRecording'
import { useProject, useSession } from '../workspace/sessionContext'

/** A file that was opened, to be laid among the tracks of the piece. */
interface Opened {
  readonly fileName: string
  readonly brought: Project
  readonly warnings: readonly string[]
}

/** So many remarks are told. */
const mostRemarks = 3
/** Further on than this no bar is asked for. */
const lastBarNumber = 9999

/** Brings the tracks of a file into the open piece: where, with whose tempo, and in whose place is asked first. */
export function TracksFromFile() {
  const session = useSession()
  const project = useProject()
  const fileInput = useRef<HTMLInputElement>(null)
  const [opened, setOpened] = useState<Opened | null>(null)
  const [recording, setRecording] = useState<{ readonly id: string; readonly file: File } | null>(null)
  const [way, setWay] = useState<BringingInto>({ atBar: 1, time: 'piece', inPlaceOf: null })
  const opening = async (file: File) => {
    const bytes = new Uint8Array(await file.arrayBuffer())
    const identity = { id: 'brought', name: file.name, nowMs: 0 }
    const { project: brought, warnings } = await session.computing.run((compute) =>
      compute.open(bytes, identity),
    )
    const here = contextOf(project).meterMap.measureAt(Math.max(0, session.positionTicks())).index + 1
    setWay({ atBar: here, time: project.tracks.length === 0 ? 'file' : 'piece', inPlaceOf: null })
    setOpened({ fileName: file.name, brought, warnings })
  }
  const open = async (file: File) => {
    try {
      await opening(file)
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error)
      session.notify(`“${file.name}” was not brought in, and nothing was changed: ${reason}.`, true)
    }
  }
  const bringIn = ({ fileName, brought, warnings }: Opened) => {
    const next = bringInto(project, brought, way)
    if ('problem' in next) {
      session.notify(`“${fileName}” was not brought in: ${next.problem}`, true)
      return
    }
    session.store.getState().apply(`bring in ${fileName}`, () => next)
    if (warnings.length > 0)
      session.notify(`Brought in, with remarks: ${warnings.slice(0, mostRemarks).join(' ')}`, false)
    setOpened(null)
  }
  const parts = opened?.brought.tracks.filter((track) => soundingNotes(track).length > 0) ?? []
  const notes = parts.reduce((sum, track) => sum + soundingNotes(track).length, 0)
  return (
    <>
      <Button onClick={() => fileInput.current?.click()}>
        <FolderInput size={15} aria-hidden /> Tracks from a file
      </Button>
      <FileInput
        input={fileInput}
        label="File with tracks for this piece"
        accept={[...openableEndings, ...soundEndings].join()}
        onPick={async ([file]) => {
          if (!file) return
          if (await isRecording(file)) setRecording({ id: crypto.randomUUID(), file })
          else await open(file)
        }}
      />
      {recording && (
        <ReadRecording
          key={recording.id}
          file={recording.file}
          taking="Take these notes"
          tempoBpm={contextOf(project).tempoMap.tempoAt(Math.max(0, session.positionTicks()))}
          onTake={async (midi) => {
            await opening(midi)
            setRecording(null)
          }}
          onLeave={() => setRecording(null)}
        />
      )}
      {opened && (
        <section
          aria-label="Tracks from a file"
          className="w-full space-y-2 border-l-4 border-verdigris bg-sheet p-2.5"
        >
          <p className="text-[13px]">
            <span className="font-semibold">{opened.brought.name}</span>
            {`: ${parts.length} ${parts.length === 1 ? 'part' : 'parts'}, ${notes.toLocaleString('en')} notes`}
          </p>
          <NumberField
            label="begins at bar"
            value={way.atBar}
            min={1}
            max={lastBarNumber}
            onChange={(atBar) => setWay({ ...way, atBar })}
          />
          <Choice
            label="Tempo and meter"
            value={way.time}
            options={[
              { value: 'piece', text: 'of this piece' },
              { value: 'file', text: 'of the file' },
            ]}
            onChange={(time) => setWay({ ...way, time })}
          />
          <Choice
            label={parts.length === 1 ? 'It comes' : 'The first part comes'}
            value={way.inPlaceOf ?? ''}
            options={[
              { value: '', text: 'as a new track' },
              ...project.tracks.map(({ id, name }) => ({ value: id, text: `in place of ${name}` })),
            ]}
            onChange={(id) => setWay({ ...way, inPlaceOf: id === '' ? null : id })}
          />
          <div className="flex gap-2">
            <Button look="main" onClick={() => bringIn(opened)}>
              Bring it in
            </Button>
            <Button look="quiet" onClick={() => setOpened(null)}>
              Leave it
            </Button>
          </div>
        </section>
      )}
    </>
  )
}
