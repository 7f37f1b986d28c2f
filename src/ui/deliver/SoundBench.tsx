import { Download } from 'lucide-react'
import { useState } from 'react'
import { useStore } from 'zustand'
import type { Practice } from '@/core/project/practising'
import type { Project } from '@/core/project/schema'
import { safeFileName } from '@/core/separation/splitFile'
import { type SoundForm, sampleBits, sampleRates, soundForms } from '@/core/sound/wav'
import type { KeptSoundFile } from '@/engine/soundFiles/soundFiles.worker'
import type { SoundWish } from '@/engine/soundFiles/soundOrder'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { download } from '../controls/download'
import { Tick } from '../controls/Tick'
import { HeardAs, wayWords } from '../score/HeardAs'
import { useSession } from '../workspace/sessionContext'
import { WorkRemarks } from './WorkRemarks'

/** The piece, and each track, as sound: rendered by the instruments and mixer it is heard with. */
export function SoundBench({ project }: { project: Project }) {
  const session = useSession()
  const [wish, setWish] = useState<SoundWish>({
    sampleRate: 48_000,
    form: 'wav',
    bits: 24,
    withStems: true,
  })
  const { share, rendered, problem } = useStore(session.soundFiles.state)
  const heardAs = useStore(session.hearingPage.state)
  const isOutOfDate = rendered !== null && (rendered.project !== project || rendered.heardAs !== heardAs)
  const nameOf = ({ name }: KeptSoundFile, isWhole: boolean) =>
    safeFileName(isWhole ? name : `${rendered?.project.name ?? ''}, ${name}`)
  return (
    <section aria-label="As sound" className="mt-8 border-t border-rule pt-4">
      <ColumnHeading>As sound</ColumnHeading>
      <p className="max-w-2xl text-soft">
        Files of what is heard: the same instruments, levels and effects. All begin with the first bar and are
        of one length, and the tracks together are the whole.
      </p>
      <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <Choice
          label="As"
          value={wish.form}
          options={soundForms.map((value) => ({ value, text: formWords[value] }))}
          onChange={(form) => setWish({ ...wish, form })}
        />
        <Choice
          label="Bits"
          value={wish.bits}
          isDisabled={wish.form !== 'wav'}
          options={sampleBits.map((value) => ({ value, text: String(value) }))}
          onChange={(bits) => setWish({ ...wish, bits })}
        />
        <Choice
          label="Rate"
          value={wish.sampleRate}
          options={sampleRates.map((value) => ({ value, text: `${value / 1000} kHz` }))}
          onChange={(sampleRate) => setWish({ ...wish, sampleRate })}
        />
        <Tick isOn={wish.withStems} onChange={(withStems) => setWish({ ...wish, withStems })}>
          each track too
        </Tick>
        <HeardAs label="Plays" />
      </div>
      <Unusual project={project} practice={heardAs.practice} />
      <div className="mt-3 flex flex-wrap items-center gap-4">
        <Button
          look="main"
          disabled={share !== null || project.tracks.every(({ clips }) => clips.length === 0)}
          onClick={() => void session.soundFiles.render(project, wish)}
        >
          {rendered ? 'Render again' : 'Render the sound'}
        </Button>
        {share !== null && (
          <Button look="quiet" onClick={session.soundFiles.stop}>
            Stop
          </Button>
        )}
        <span role="status" className="text-soft">
          {share !== null ? `${Math.floor(share * 100)} % rendered…` : ''}
        </span>
      </div>
      <WorkRemarks
        problem={problem}
        failed="The sound was not rendered"
        outOfDate={isOutOfDate ? 'these files were rendered, or is heard otherwise' : null}
      />
      {rendered && (
        <>
          <p className="mt-3 text-[13px] text-soft">
            {lengthWords(rendered.seconds)} of sound each
            {rendered.softerDb > 0.05 &&
              `; all are ${rendered.softerDb.toFixed(1)} dB softer than they are heard, so that nothing is beyond full scale`}
            {rendered.sumDiffersDb !== null &&
              `; the tracks together differ from the whole by ${rendered.sumDiffersDb < -120 ? 'nothing' : `${rendered.sumDiffersDb.toFixed(0)} dB`}`}
            .
          </p>
          <ul className="mt-1">
            {rendered.files.map((file, index) => (
              <li
                key={`${file.name} ${index}`}
                className="flex items-center gap-3 border-b border-rule py-1.5"
                data-sound={file.name}
              >
                <div className="min-w-0 flex-1">
                  <p className="truncate font-semibold">
                    {nameOf(file, index === 0)}.{rendered.form}
                  </p>
                  <p className="text-[12px] text-soft">
                    {Number.isFinite(file.peakDb)
                      ? `loudest at ${file.peakDb.toFixed(1)} dB below full scale`.replace('-', '')
                      : 'silent'}
                  </p>
                </div>
                <span className="text-[12px] text-soft">
                  {Math.max(1, Math.round(file.blob.size / 1024)).toLocaleString('en')} kB
                </span>
                <Button
                  aria-label={`Save ${file.name} as ${rendered.form === 'wav' ? 'WAV' : 'Ogg'}`}
                  onClick={() =>
                    download(`${nameOf(file, index === 0)}.${rendered.form}`, file.blob, file.blob.type)
                  }
                >
                  <Download size={14} aria-hidden /> Save
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  )
}

const formWords: Readonly<Record<SoundForm, string>> = {
  wav: 'WAV, every sample',
  ogg: 'Ogg Vorbis, compressed',
}

/** What is heard otherwise than it was made, and so would be in the files. */
function Unusual({ project, practice }: { project: Project; practice: Practice | null }) {
  const { speedPercent } = project.recording
  const track = project.tracks.find(({ id }) => id === practice?.trackId)
  const remarks = [
    ...(speedPercent === 100 ? [] : [`at ${speedPercent} % of its tempo`]),
    ...(practice && track ? [`with ${track.name} ${wayWords[practice.way]}`] : []),
  ]
  if (remarks.length === 0) return null
  return (
    <p className="mt-3 border-l-4 border-weld bg-sheet px-4 py-2">
      The piece is heard {remarks.join(', ')}, and would be rendered so.
    </p>
  )
}

function lengthWords(seconds: number): string {
  const whole = Math.round(seconds)
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}
