import { Package } from 'lucide-react'
import { useState } from 'react'
import { useStore } from 'zustand'
import type { Project } from '@/core/project/schema'
import { safeFileName } from '@/core/separation/splitFile'
import { type ParcelForm, type ParcelState, parcelForms } from '@/state/parcel'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { download } from '../controls/download'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'
import { WorkRemarks } from './WorkRemarks'

const formWords: Readonly<Record<ParcelForm, string>> = {
  project: 'the project itself',
  notation: 'the page as MusicXML, MEI and ABC',
  midi: 'MIDI, whole and each track',
  pages: 'score and parts as PDF',
  sound: 'sound, whole and each track',
}

const stageWords: Readonly<Record<NonNullable<ParcelState['stage']>, string>> = {
  project: 'Writing the project…',
  notation: 'Writing the page and reading it back…',
  midi: 'Writing MIDI files and reading them back…',
  pages: 'Laying out the pages…',
  sound: 'Rendering the sound…',
  packing: 'Packing…',
}

/** Everything for somebody else in one archive, with a list of what is inside. */
export function ParcelBench({ project }: { project: Project }) {
  const session = useSession()
  const [forms, setForms] = useState<ReadonlySet<ParcelForm>>(new Set(parcelForms))
  const { stage, problem } = useStore(session.parcel.state)
  const share = useStore(session.soundFiles.state, (state) => state.share)
  const { isAsWritten } = useStore(session.hearingPage.state)
  const isEmpty = project.tracks.every(({ clips }) => clips.length === 0)
  const make = async () => {
    const wish = { sampleRate: 48_000, form: 'wav', bits: 24, withStems: true } as const
    const bytes = await session.parcel.make(project, forms, wish, isAsWritten)
    if (bytes) download(`${safeFileName(project.name)}, parcel.zip`, bytes, 'application/zip')
  }
  return (
    <section aria-label="A parcel for somebody else" className="mt-8 border-t border-rule pt-4">
      <ColumnHeading>A parcel for somebody else</ColumnHeading>
      <p className="max-w-2xl text-soft">
        One archive with what is ticked, and a plain list of what is inside: tempo, meter, instruments with
        their ranges, and how each file was checked.
      </p>
      <div className="mt-3 flex flex-wrap gap-x-5 gap-y-1">
        {parcelForms.map((form) => (
          <Tick
            key={form}
            isOn={forms.has(form)}
            onChange={(isOn) =>
              setForms(new Set(parcelForms.filter((each) => (each === form ? isOn : forms.has(each)))))
            }
          >
            {formWords[form]}
          </Tick>
        ))}
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-4">
        <Button
          look="main"
          disabled={stage !== null || forms.size === 0 || isEmpty}
          onClick={() => void make()}
        >
          <Package size={14} aria-hidden /> Make and save the parcel
        </Button>
        {stage !== null && (
          <Button look="quiet" onClick={session.parcel.stop}>
            Stop
          </Button>
        )}
        <span role="status" className="text-soft">
          {stage !== null && stageWords[stage]}
          {stage === 'sound' && share !== null && ` ${Math.floor(share * 100)} %`}
        </span>
      </div>
      <WorkRemarks problem={problem} failed="The parcel was not made" outOfDate={null} />
    </section>
  )
}
