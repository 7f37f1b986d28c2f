'use client'

import { Copy, Download, FolderInput, Music4, Plus, Trash2 } from 'lucide-react'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { useCallback, useEffect, useRef, useState } from 'react'
import { useStore } from 'zustand'
import { openableEndings } from '@/core/formats/openFile'
import type { Template } from '@/core/project/template'
import { safeFileName } from '@/core/separation/splitFile'
import { soundEndings } from '@/core/sound/holdsSound'
import { createComputing } from '@/state/computing'
import {
  duplicateProject,
  emptyTrash,
  listProjects,
  type ProjectSummary,
  renameProject,
  trashProject,
} from '@/state/database'
import { prepareEngraver } from '@/state/engraverThread'
import { keepAllInstruments, keptProgram } from '@/state/keptProgram'
import { whenLeft } from '@/state/leaving'
import { withProjectToOneself } from '@/state/projectLock'
import { isRecording } from '@/state/recordings'
import { listTemplates } from '@/state/rig'
import { askToPersist, type StorageRoom, storageRoom } from '@/state/storageRoom'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { download } from '../controls/download'
import { EditableName } from '../controls/EditableName'
import { FileInput } from '../controls/FileInput'
import { fileSize } from '../controls/fileSize'
import { ReadRecording } from '../recordings/ReadRecording'
import {
  bringIn,
  createDemoProject,
  createEmptyProject,
  newProjectId,
  packProject,
  type Start,
} from './projectActions'
import { ReadingStatus } from './ReadingStatus'

/** The shelf itself comes first. */
const preparedAfterMs = 400

/** The home view: every project there is, and the ways to begin another. */
export function ProjectShelf() {
  const router = useRouter()
  const [projects, setProjects] = useState<ProjectSummary[] | null>(null)
  const [message, setMessage] = useState<{
    text: string
    isProblem: boolean
    undo?: () => Promise<void>
  } | null>(null)
  const [isBusy, setIsBusy] = useState(false)
  /** The file that is being read. */
  const [reading, setReading] = useState<string | null>(null)
  /** Recordings that are read one after the other. */
  const [toRead, setToRead] = useState<readonly { readonly id: string; readonly file: File }[]>([])
  const [templates, setTemplates] = useState<readonly Template[]>([])
  const [startId, setStartId] = useState('keyboard')
  const fileInput = useRef<HTMLInputElement>(null)
  const [computing] = useState(createComputing)

  // There before it is needed, so that files are read and written without a network too.
  useEffect(() => {
    const timer = setTimeout(prepareEngraver, preparedAfterMs)
    return () => clearTimeout(timer)
  }, [])
  useEffect(() => {
    computing.prepare()
    return computing.stop
  }, [computing])

  const refresh = useCallback(async () => {
    setProjects(await listProjects())
    const { templates: found, unreadable } = await listTemplates()
    setTemplates(found)
    return unreadable
  }, [])

  const attempt = useCallback(
    async (what: string, work: () => Promise<void>) => {
      setIsBusy(true)
      try {
        await work()
        const unreadable = await refresh()
        if (unreadable.length > 0)
          setMessage(
            (said) =>
              said ?? {
                text: `${unreadable.length === 1 ? 'A set-up' : `${unreadable.length} set-ups`} could not be read and cannot be chosen (${unreadable[0]}). Nothing of it was deleted.`,
                isProblem: true,
              },
          )
      } catch (error) {
        const name = error instanceof DOMException ? error.name : ''
        const reason =
          name === 'QuotaExceededError'
            ? 'the browser’s storage is full'
            : error instanceof Error
              ? error.message
              : String(error)
        setMessage({ text: `${what}: ${reason}.`, isProblem: true })
        // What cannot be listed is no reason not to begin something.
        setProjects((listed) => listed ?? [])
      } finally {
        setIsBusy(false)
      }
    },
    [refresh],
  )

  useEffect(() => {
    void attempt('The list of projects cannot be read', async () => {
      await whenLeft()
      await emptyTrash(Date.now())
    })
  }, [attempt])

  const open = (id: string, step = 'players') => router.push(`/project?${new URLSearchParams({ id, step })}`)

  const start: Start =
    startId === 'standIns' ? startId : (templates.find((template) => template.id === startId) ?? 'keyboard')

  /** One file is opened at once; several come to lie on the shelf. */
  const bringInFiles = async (all: readonly File[]) => {
    const areRecordings = await Promise.all(all.map(isRecording))
    const recordings = all.filter((_, index) => areRecordings[index])
    setToRead((before) => [...before, ...recordings.map((file) => ({ id: crypto.randomUUID(), file }))])
    const files = all.filter((_, index) => !areRecordings[index])
    const [first] = files
    if (!first) return
    const isAlone = all.length === 1
    const what =
      files.length === 1
        ? `“${first.name}” was not brought in, and nothing was changed`
        : 'Not all files were brought in'
    return attempt(what, async () => {
      const problems: string[] = []
      for (const file of files)
        try {
          setReading(file.name)
          const { project, warnings } = await bringIn(computing, file)
          if (warnings.length > 0)
            sessionStorage.setItem(`notice ${project.id}`, `Brought in, with remarks: ${someOf(warnings)}`)
          if (isAlone) open(project.id, 'tracks')
        } catch (error) {
          if (files.length === 1) throw error
          problems.push(`“${file.name}”: ${error instanceof Error ? error.message : String(error)}`)
        } finally {
          setReading(null)
        }
      if (problems.length > 0) {
        await refresh()
        throw new Error(problems.join('; '))
      }
      if (files.length > 1) setMessage({ text: `${files.length} pieces were brought in.`, isProblem: false })
    })
  }

  const [recording] = toRead
  const nextRecording = () => setToRead((before) => before.slice(1))
  /** The last one opens at once; while others wait to be read, it comes to lie on the shelf. */
  const takeNotes = async (midi: File) => {
    const { project } = await bringIn(computing, midi)
    await refresh()
    nextRecording()
    if (toRead.length === 1) open(project.id, 'tracks')
  }

  return (
    <main
      className="mx-auto flex min-h-full max-w-[1080px] flex-col px-4 py-6 md:px-8 md:py-10"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault()
        void bringInFiles([...event.dataTransfer.files])
      }}
    >
      <ThreadTitle />
      <section aria-label="Begin" className="mt-8 grid gap-4 sm:grid-cols-3">
        <BeginCard
          icon={<Music4 size={18} aria-hidden />}
          title="Open the demo"
          text="Three players rehearse for a lantern evening. Press play, look at the page, record them again."
          look="main"
          disabled={isBusy || projects === null}
          onPress={() =>
            attempt('The demo could not be made', async () => open((await createDemoProject()).id))
          }
        />
        <BeginCard
          icon={<Plus size={18} aria-hidden />}
          title="New piece"
          text="Starts with your computer keyboard. MIDI ports take their places when they first play."
          disabled={isBusy || projects === null}
          onPress={() =>
            attempt('The project could not be made', async () => open((await createEmptyProject(start)).id))
          }
        />
        <BeginCard
          icon={<FolderInput size={18} aria-hidden />}
          title="Bring in a file"
          text="Notation (MusicXML, MEI, ABC), MIDI, a recording, or a project saved to a file. Or drop them on this page."
          disabled={isBusy || projects === null}
          onPress={() => fileInput.current?.click()}
        />
        <FileInput
          input={fileInput}
          label="File to bring in"
          accept={[...openableEndings, ...soundEndings, 'audio/midi'].join()}
          isMany
          onPick={(files) => void bringInFiles(files)}
        />
      </section>
      <div className="mt-3 flex justify-center">
        <Choice
          label="A new piece is set up with"
          value={startId}
          options={[
            { value: 'keyboard', text: 'your computer keyboard' },
            { value: 'standIns', text: 'your keyboard and six stand-in players' },
            ...templates.map((template) => ({ value: template.id, text: `the set-up “${template.name}”` })),
          ]}
          onChange={setStartId}
        />
      </div>
      {recording && (
        <div className="mt-5">
          <ReadRecording
            key={recording.id}
            file={recording.file}
            taking={toRead.length === 1 ? 'Open them as a piece' : 'Put them on the shelf as a piece'}
            tempoBpm={null}
            onTake={takeNotes}
            onLeave={nextRecording}
          />
          {toRead.length > 1 && (
            <p className="mt-1.5 text-[13px] text-soft">
              {toRead.length - 1} more {toRead.length === 2 ? 'recording waits' : 'recordings wait'} to be
              read.
            </p>
          )}
        </div>
      )}
      {reading !== null && <ReadingStatus key={reading} fileName={reading} onStop={computing.stop} />}
      {message && (
        <div
          role={message.isProblem ? 'alert' : 'status'}
          className={`mt-5 flex items-center justify-between gap-4 rounded-md border-l-4 bg-sheet px-4 py-2.5 ${message.isProblem ? 'border-live' : 'border-verdigris'}`}
        >
          <span>{message.text}</span>
          <span className="flex gap-2">
            {message.undo && (
              <Button
                onClick={() => {
                  const { undo } = message
                  setMessage(null)
                  if (undo) void attempt('It could not be undone', undo)
                }}
              >
                Undo
              </Button>
            )}
            <Button look="quiet" onClick={() => setMessage(null)}>
              Close
            </Button>
          </span>
        </div>
      )}
      <section aria-label="Projects" className="mt-8">
        <h2 className="font-serif text-xl font-semibold">On the shelf</h2>
        {projects?.length === 0 && (
          <p className="mt-3 text-soft">
            Nothing here yet. The demo is the quickest way to hear and see what this does.
          </p>
        )}
        <ul className="mt-2">
          {projects?.map((project) => (
            <li
              key={project.id}
              className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule py-3"
            >
              <div className="min-w-[200px] flex-1">
                <EditableName
                  name={project.name}
                  label="Project name"
                  className="font-serif text-base font-semibold"
                  onRename={(name) =>
                    attempt('It could not be renamed', () =>
                      withProjectToOneself(project.id, () => renameProject(project.id, name)),
                    )
                  }
                />
                <p className="truncate text-[13px] text-soft">
                  {project.problem ??
                    `${project.subtitle ? `${project.subtitle} · ` : ''}${project.trackCount} tracks · ${project.takeCount} takes · changed ${new Date(project.changedAtMs).toLocaleString()}`}
                </p>
              </div>
              <Button
                onClick={() => open(project.id)}
                disabled={project.problem !== null}
                aria-label={`Open ${project.name}`}
              >
                Open
              </Button>
              <Button
                look="quiet"
                title="Duplicate"
                aria-label={`Duplicate ${project.name}`}
                onClick={() =>
                  attempt('It could not be duplicated', () =>
                    duplicateProject(project.id, newProjectId(), Date.now()),
                  )
                }
              >
                <Copy size={15} aria-hidden />
              </Button>
              <Button
                look="quiet"
                title="Save to a file"
                aria-label={`Save ${project.name} to a file`}
                onClick={() =>
                  attempt('It could not be saved to a file', async () => {
                    const packed = await packProject(computing, project.id)
                    if (!packed) return
                    download(`${safeFileName(packed.name)}.voice`, packed.bytes, 'application/zip')
                    if (packed.isWithoutSound)
                      setMessage({
                        text: `${packed.name}.voice is without the sound of its takes: of that there are hours. Under Deliver it can be put in all the same.`,
                        isProblem: false,
                      })
                  })
                }
              >
                <Download size={15} aria-hidden />
              </Button>
              <Button
                look="quiet"
                title="Delete"
                aria-label={`Delete ${project.name}`}
                onClick={() =>
                  attempt('It could not be deleted', async () => {
                    await withProjectToOneself(project.id, () => trashProject(project.id, Date.now()))
                    setMessage({
                      text: `“${project.name}” was taken off the shelf. It is kept for seven days.`,
                      isProblem: false,
                      undo: () => trashProject(project.id, null),
                    })
                  })
                }
              >
                <Trash2 size={15} aria-hidden />
              </Button>
            </li>
          ))}
        </ul>
      </section>
      <StorageLine projects={projects} />
    </main>
  )
}

/** Where the projects are, how much room there is, and what to do that they stay. */
function StorageLine({ projects }: { projects: readonly ProjectSummary[] | null }) {
  const [room, setRoom] = useState<StorageRoom | null>(null)
  const kept = useStore(keptProgram)
  useEffect(() => {
    // Asked again when the list has changed: so has what is stored.
    if (projects) void storageRoom().then(setRoom)
  }, [projects])
  const persist = async () => {
    await askToPersist()
    setRoom(await storageRoom())
  }
  return (
    <footer className="mt-auto flex flex-wrap items-center gap-x-4 gap-y-1.5 pt-10 text-[12px] text-soft">
      {room && (
        <>
          <span>
            Stored in this browser: {fileSize(room.usedBytes)} of {fileSize(room.quotaBytes)}.
          </span>
          {room.isPersistent ? (
            <span>The browser keeps it until you delete it.</span>
          ) : (
            <>
              <span>
                When space is short the browser may clear it: save what matters to a file, or ask it to keep
                everything.
              </span>
              <Button className="px-2 py-0.5 text-[12px]" onClick={() => void persist()}>
                Ask it to keep everything
              </Button>
            </>
          )}
        </>
      )}
      {kept.keeping === 'being kept' && (
        <span role="status">
          The program is being kept for use without a network: closed before that is done, it does not open
          without one.
        </span>
      )}
      {kept.keeping === 'not kept' && (
        <span role="status">
          The program could not be kept in this browser: it opens with a network only.
        </span>
      )}
      {kept.keeping === 'kept' && (
        <>
          <span>The program opens without a network.</span>
          {kept.instruments && (
            <span role="status">
              {kept.instruments === 'asked'
                ? 'Keeping all instruments…'
                : `${kept.instruments.kept} of ${kept.instruments.of} instruments are kept too.`}
            </span>
          )}
          {(kept.instruments === null ||
            (kept.instruments !== 'asked' && kept.instruments.kept < kept.instruments.of)) && (
            <Button className="px-2 py-0.5 text-[12px]" onClick={keepAllInstruments}>
              {kept.instruments ? 'Try again' : 'Keep all instruments too (23 MB)'}
            </Button>
          )}
        </>
      )}
      <Link className="underline" href="/help">
        Help
      </Link>
    </footer>
  )
}

function ThreadTitle() {
  return (
    <header className="relative">
      <h1 className="font-serif text-4xl font-semibold">Unbroken Voice</h1>
      <p className="mt-1 max-w-xl text-soft">
        Several players at once, recorded into tracks and onto the page, with no note lost on the way.
      </p>
      <svg className="absolute top-0 right-0 hidden h-20 w-[420px] lg:block" viewBox="0 0 420 80" aria-hidden>
        <path d="M0 20 C150 20 200 50 420 50" fill="none" stroke="#A8372B" strokeWidth="2.5" />
        <path d="M0 40 C150 40 200 20 420 20" fill="none" stroke="#2F4C8C" strokeWidth="2.5" />
        <path d="M0 60 C150 60 200 65 420 35" fill="none" stroke="#1C7466" strokeWidth="2.5" />
        <ellipse cx="120" cy="24" rx="5" ry="3.6" fill="#A8372B" />
        <ellipse cx="260" cy="27" rx="5" ry="3.6" fill="#2F4C8C" />
        <ellipse cx="330" cy="51" rx="5" ry="3.6" fill="#1C7466" />
      </svg>
    </header>
  )
}

function BeginCard({
  icon,
  title,
  text,
  look,
  disabled,
  onPress,
}: {
  icon: React.ReactNode
  title: string
  text: string
  look?: 'main'
  disabled: boolean
  onPress: () => void
}) {
  return (
    <button
      type="button"
      disabled={disabled}
      onClick={onPress}
      className={`rounded-lg border p-4 text-left disabled:opacity-60 ${look === 'main' ? 'border-ink bg-ink text-paper hover:bg-[#363c43]' : 'border-rule bg-sheet hover:bg-desk'}`}
    >
      <span className="flex items-center gap-2 font-serif text-lg font-semibold">
        {icon}
        {title}
      </span>
      <span className={`mt-1 block text-[13px] ${look === 'main' ? 'text-[#dcd6c8]' : 'text-soft'}`}>
        {text}
      </span>
    </button>
  )
}

/** So many remarks are told; the rest are counted. */
const mostRemarks = 4

function someOf(warnings: readonly string[]): string {
  const rest = warnings.length - mostRemarks
  return [...warnings.slice(0, mostRemarks), ...(rest > 0 ? [`And ${rest} more.`] : [])].join(' ')
}
