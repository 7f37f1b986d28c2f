import { BadgeCheck, CircleAlert, Download } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useStore } from 'zustand'
import { type MusicXmlVersion, musicXmlVersions } from '@/core/formats/musicXmlOptions'
import { type MidiFormat, midiDivisions } from '@/core/formats/projectToMidi'
import type { ScoreReport } from '@/core/formats/scoreFromFile'
import { soundingNotes } from '@/core/project/create'
import type { AsidePart } from '@/core/project/salvage'
import { safeFileName } from '@/core/separation/splitFile'
import type { ProvedFile } from '@/engine/compute/compute.worker'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { download } from '../controls/download'
import { fileSize } from '../controls/fileSize'
import { saveAside } from '../controls/saveAside'
import { Tick } from '../controls/Tick'
import { HeardAs } from '../score/HeardAs'
import { LedgerLines } from '../score/LedgerLines'
import { useProject, useSession } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { LiveBench } from './LiveBench'
import { ParcelBench } from './ParcelBench'
import { PrintBench } from './PrintBench'
import { SoundBench } from './SoundBench'
import { WorkRemarks } from './WorkRemarks'

interface Delivery {
  /** The project that the files were written from: when it has moved on, they are out of date. */
  readonly project: unknown
  readonly isAsWritten: boolean
  readonly score: {
    readonly files: ProvedFile[]
    readonly parts: ProvedFile[]
    readonly report: ScoreReport
  } | null
  readonly midi: { readonly whole: ProvedFile; readonly stems: ProvedFile[] }
}

/** Files for notation software and collaborators: written, read back, compared, then offered. */
export function DeliverView() {
  const session = useSession()
  const project = useProject()
  const [delivery, setDelivery] = useState<Delivery | null>(null)
  const [stage, setStage] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [version, setVersion] = useState<MusicXmlVersion>('3.0')
  const [division, setDivision] = useState<(typeof midiDivisions)[number]>(960)
  const [format, setFormat] = useState<MidiFormat>(1)
  const [withEachPart, setWithEachPart] = useState(false)
  const onPage = project.tracks.filter((track) => track.isOnPage && soundingNotes(track).length > 0)
  const { isAsWritten } = useStore(session.hearingPage.state)
  const isOutOfDate =
    delivery !== null && (delivery.project !== project || delivery.isAsWritten !== isAsWritten)

  const prepare = async () => {
    setProblem(null)
    try {
      setStage('Writing MIDI files and reading them back…')
      const midi = await session.computing.run((compute) =>
        compute.deliverMidi(project, division, isAsWritten, format),
      )
      setStage('Writing MusicXML and reading it back…')
      const { files, ...score } = await session.computing.run((compute) =>
        compute.deliverMusicXml(project, version, withEachPart),
      )
      setStage('Writing MEI and ABC and reading them back…')
      const others = await session.computing.run((compute) => compute.deliverMeiAndAbc(project))
      setDelivery({ project, isAsWritten, score: { ...score, files: [...files, ...others] }, midi })
      viewStore.setState({ isDelivered: true })
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    } finally {
      setStage(null)
    }
  }

  const [keptBytes, setKeptBytes] = useState(0)
  const [isKeptIncluded, setIsKeptIncluded] = useState(true)
  useEffect(() => {
    let isCurrent = true
    session.soundKeeping.sizeOfTakes().then(
      (bytes) => isCurrent && setKeptBytes(bytes),
      (error) => session.notify(`The sound of the takes could not be looked for: ${error}`, true),
    )
    return () => {
      isCurrent = false
    }
  }, [session])
  const saveProject = async () => {
    try {
      const bytes = await session.projectFile(project, isKeptIncluded && keptBytes > 0)
      download(`${safeFileName(project.name)}.voice`, bytes, 'application/zip')
    } catch (error) {
      session.notify(
        `The project was not saved to a file: ${error instanceof Error ? error.message : error}.`,
        true,
      )
    }
  }

  return (
    <div className="flex flex-col lg:grid lg:h-full lg:grid-cols-[1fr_280px] lg:overflow-y-auto">
      <div className="min-w-0 px-4 py-5 md:px-9">
        <ColumnHeading>For notation software and for others</ColumnHeading>
        <p className="max-w-2xl text-soft">
          Each of these files is written, then read back and compared note for note; only then is it offered,
          with the name of who read it. MusicXML and MIDI are read by other people’s programs, of MEI and ABC
          a part of the reading is ours.
        </p>
        <div className="mt-4 flex flex-wrap items-center gap-4">
          <Button look="main" disabled={stage !== null || onPage.length === 0} onClick={() => void prepare()}>
            {delivery ? 'Write and check again' : 'Write and check the files'}
          </Button>
          <Choice
            label="MIDI ticks to a quarter"
            value={division}
            options={midiDivisions.map((value) => ({ value, text: value.toLocaleString('en') }))}
            onChange={setDivision}
          />
          <Choice
            label="MusicXML"
            value={version}
            options={musicXmlVersions.map((value) => ({ value, text: value }))}
            onChange={setVersion}
          />
          <HeardAs label="MIDI" />
          <Choice
            label="in"
            value={format}
            options={[
              { value: 1, text: 'a track for each part' },
              { value: 0, text: 'one track' },
            ]}
            onChange={setFormat}
          />
          <Tick isOn={withEachPart} onChange={setWithEachPart}>
            MusicXML of each part too
          </Tick>
          {stage !== null && (
            <Button look="quiet" onClick={session.computing.stop}>
              Stop
            </Button>
          )}
          <span role="status" className="text-soft">
            {stage ??
              (onPage.length === 0
                ? 'Nothing is on the page yet.'
                : `${onPage.length} ${onPage.length === 1 ? 'part' : 'parts'} on the page.`)}
          </span>
        </div>
        <WorkRemarks
          problem={problem}
          failed="The files could not be written"
          outOfDate={isOutOfDate ? 'these files were written' : null}
        />
        {delivery && (
          <div className="mt-5 space-y-6">
            <SaveAll name={safeFileName(project.name)} files={filesOf(delivery)} />
            {delivery.score && (
              <FileList title="The page, as MusicXML, MEI and ABC" files={delivery.score.files} />
            )}
            {delivery.score && delivery.score.parts.length > 0 && (
              <FileList title="Each part as MusicXML of its own" files={delivery.score.parts} />
            )}
            <FileList title="The performance, as one MIDI file" files={[delivery.midi.whole]} />
            <FileList title="Each track as a MIDI file of its own" files={delivery.midi.stems} />
          </div>
        )}
        <LiveBench project={project} />
        <ParcelBench project={project} />
        <PrintBench project={project} partNames={onPage.map(({ name }) => name)} />
        <SoundBench project={project} />
        <div className="mt-8 border-t border-rule pt-4">
          <ColumnHeading>The project itself</ColumnHeading>
          <p className="text-soft">
            One file with tracks, settings and all takes as played, to keep or to open on another machine.
          </p>
          <Button
            className="mt-2"
            onClick={() =>
              void saveProject().catch((error) =>
                session.notify(
                  `The project could not be saved to a file: ${error instanceof Error ? error.message : error}. It is unharmed here.`,
                  true,
                ),
              )
            }
          >
            <Download size={14} aria-hidden /> Save the project to a file
          </Button>
          {keptBytes > 0 && (
            <Tick isOn={isKeptIncluded} onChange={setIsKeptIncluded}>
              with the sound of its takes, {fileSize(keptBytes)}
            </Tick>
          )}
          <LeftOut name={safeFileName(project.name)} />
        </div>
      </div>
      <aside aria-label="Accounted for" className="border-t border-rule px-5 py-5 lg:border-t-0 lg:border-l">
        <ColumnHeading>Accounted for</ColumnHeading>
        {delivery?.score ? (
          <>
            <LedgerLines ledger={delivery.score.report} />
            <h3 className="mt-5 mb-1 font-serif font-semibold">By part</h3>
            <ul className="text-[13px]">
              {delivery.score.report.parts.map((part) => (
                <li key={part.name} className="flex justify-between border-b border-rule py-1">
                  <span className="truncate">{part.name}</span>
                  <span className="text-soft">
                    {part.notes} · {part.staves === 2 ? 'grand staff' : part.clefs[0]}
                  </span>
                </li>
              ))}
            </ul>
          </>
        ) : (
          <p className="text-[13px] text-soft">
            From the key press to the file: how many notes were captured, written, merged and left out, and
            why.
          </p>
        )}
      </aside>
    </div>
  )
}

/** Parts that were damaged when this piece was read, as they were found: kept in this browser until somebody wants them. */
function LeftOut({ name }: { name: string }) {
  const session = useSession()
  const [parts, setParts] = useState<readonly AsidePart[]>([])
  useEffect(() => {
    session
      .asideParts()
      .then(setParts, (error) =>
        session.notify(`What was left out of this piece could not be read: ${error.message ?? error}.`, true),
      )
  }, [session])
  if (parts.length === 0) return null
  return (
    <p className="mt-3 flex flex-wrap items-center gap-3 text-soft">
      {parts.length === 1 ? 'One damaged part was' : `${parts.length} damaged parts were`} left out when this
      piece was read.
      <Button onClick={() => saveAside(name, parts)}>Save it to a file</Button>
    </p>
  )
}

function filesOf({ score, midi }: Delivery): readonly ProvedFile[] {
  return [...(score?.files ?? []), ...(score?.parts ?? []), midi.whole, ...midi.stems]
}

/** Every file of a delivery in one archive. */
function SaveAll({ name, files }: { name: string; files: readonly ProvedFile[] }) {
  const session = useSession()
  const [isPacking, setPacking] = useState(false)
  const unproved = files.filter((file) => !file.proof.isProved).length
  const save = async () => {
    setPacking(true)
    try {
      const entries = files.map(({ fileName, bytes }) => ({ fileName, bytes }))
      download(
        `${name}, all files.zip`,
        await session.computing.run((compute) => compute.pack(entries)),
        'application/zip',
      )
    } catch (error) {
      session.notify(
        `The files could not be packed: ${error instanceof Error ? error.message : error}.`,
        true,
      )
    } finally {
      setPacking(false)
    }
  }
  return (
    <div className="flex flex-wrap items-center gap-3">
      <Button look="main" disabled={isPacking} onClick={() => void save()}>
        <Download size={14} aria-hidden /> Save all {files.length} files
      </Button>
      <span className="text-[13px] text-soft">
        in one archive
        {unproved > 0 &&
          `; ${unproved === 1 ? 'one of them differs' : `${unproved} of them differ`} when read back`}
      </span>
    </div>
  )
}

function FileList({ title, files }: { title: string; files: readonly ProvedFile[] }) {
  return (
    <section aria-label={title}>
      <h3 className="font-serif text-base font-semibold">{title}</h3>
      <ul className="mt-1">
        {files.map((file) => (
          <li
            key={file.fileName}
            className="flex items-center gap-3 border-b border-rule py-1.5"
            data-file={file.fileName}
          >
            {file.proof.isProved ? (
              <BadgeCheck size={18} className="shrink-0 text-verdigris" aria-label="proved" />
            ) : (
              <CircleAlert size={18} className="shrink-0 text-live" aria-label="differs" />
            )}
            <div className="min-w-0 flex-1">
              <p className="truncate font-semibold">{file.fileName}</p>
              <p className="text-[12px] text-soft">
                {file.proof.isProved
                  ? `${file.proof.foundNotes} of ${file.proof.expectedNotes} notes read back the same, by ${file.reader}`
                  : `Reading back differs: ${file.proof.differences.join('; ')}`}
                {file.leftOut && file.leftOut.length > 0 && `. Not in it: ${file.leftOut.join('; ')}`}
              </p>
            </div>
            <span className="text-[12px] text-soft">
              {Math.max(1, Math.round(file.bytes.length / 1024)).toLocaleString('en')} kB
            </span>
            <Button
              onClick={() => download(file.fileName, file.bytes, file.mimeType)}
              aria-label={`Save ${file.fileName}`}
            >
              <Download size={14} aria-hidden /> {file.proof.isProved ? 'Save' : 'Save anyway'}
            </Button>
          </li>
        ))}
      </ul>
    </section>
  )
}
