import { createStore } from 'zustand/vanilla'
import { contentsOfParcel, type ParcelFile } from '@/core/formats/contentsOfParcel'
import { headingsOf } from '@/core/project/onPage'
import type { Project } from '@/core/project/schema'
import { safeFileName } from '@/core/separation/splitFile'
import type { ProvedFile } from '@/engine/compute/compute.worker'
import type { SoundWish } from '@/engine/soundFiles/soundOrder'
import type { Computing } from './computing'
import type { createPrinting } from './printing'
import type { createSoundFiles } from './soundFiles'

/** What a parcel can hold. */
export const parcelForms = ['project', 'notation', 'midi', 'pages', 'sound'] as const
export type ParcelForm = (typeof parcelForms)[number]

export interface ParcelState {
  /** What is being made; null while nothing is. */
  readonly stage: ParcelForm | 'packing' | null
  /** Why the last parcel was not made. */
  readonly problem: string | null
}

/** Everything of a piece for somebody else, in one archive with a list of what is in it. */
export function createParcel(works: {
  readonly computing: Computing
  readonly printing: ReturnType<typeof createPrinting>
  readonly soundFiles: ReturnType<typeof createSoundFiles>
  /** The project as a file, with takes and what lies with it. */
  projectFile(project: Project): Promise<Uint8Array>
}) {
  const { computing, printing, soundFiles } = works
  const state = createStore<ParcelState>(() => ({ stage: null, problem: null }))
  let isStopped = false

  interface Made extends ParcelFile {
    readonly bytes: Uint8Array
  }
  const proved = ({ fileName, bytes, proof, reader, leftOut = [] }: ProvedFile): Made => ({
    fileName,
    bytes,
    check: proof.isProved
      ? `${proof.foundNotes} of ${proof.expectedNotes} notes read back the same, by ${reader}${leftOut.length > 0 ? `; not in it: ${leftOut.join('; ')}` : ''}`
      : `differs when read back: ${proof.differences[0]}`,
  })

  const makers: Readonly<
    Record<ParcelForm, (project: Project, wish: SoundWish, isAsWritten: boolean) => Promise<Made[]>>
  > = {
    async project(project) {
      const fileName = `${safeFileName(project.name)}.voice`
      return [{ fileName, bytes: await works.projectFile(project), check: null }]
    },
    async notation(project) {
      const { files } = await computing.run((compute) => compute.deliverMusicXml(project, '3.0', false))
      const others = await computing.run((compute) => compute.deliverMeiAndAbc(project))
      return [...files, ...others].map(proved)
    },
    async midi(project, _, isAsWritten) {
      const { whole, stems } = await computing.run((compute) =>
        compute.deliverMidi(project, divisionTicksPerQuarter, isAsWritten, 1),
      )
      return [
        proved(whole),
        ...stems.map((stem) => ({ ...proved(stem), fileName: `tracks/${stem.fileName}` })),
      ]
    },
    async pages(project) {
      const { parts } = headingsOf(project)
      await printing.print(project, [null, ...parts.map((_, index) => index)])
      const { printed, problem } = printing.state.getState()
      if (printed?.project !== project) throw new Error(problem ?? 'other pages are being laid out')
      return [
        { fileName: `${safeFileName(project.name)}, score and parts.pdf`, bytes: printed.pdf, check: null },
      ]
    },
    async sound(project, wish) {
      await soundFiles.render(project, wish)
      const { rendered, problem } = soundFiles.state.getState()
      if (rendered?.project !== project) throw new Error(problem ?? 'other sound is being rendered')
      return Promise.all(
        rendered.files.map(
          async ({ name, blob }, index): Promise<Made> => ({
            fileName: index === 0 ? `${safeFileName(name)}.wav` : `sound/${safeFileName(name)}.wav`,
            bytes: new Uint8Array(await blob.arrayBuffer()),
            check: null,
          }),
        ),
      )
    },
  }

  return {
    state,

    /**
     * Makes a parcel; while one is under way no other is begun.
     *
     * @returns null where it was stopped or went wrong, which is told in the state
     */
    async make(
      project: Project,
      forms: ReadonlySet<ParcelForm>,
      wish: SoundWish,
      isAsWritten: boolean,
    ): Promise<Uint8Array | null> {
      if (state.getState().stage !== null) return null
      isStopped = false
      const files: Made[] = []
      try {
        for (const form of parcelForms) {
          if (!forms.has(form)) continue
          state.setState({ stage: form, problem: null })
          files.push(...(await makers[form](project, wish, isAsWritten)))
          if (isStopped) throw new Error('it was stopped')
        }
        state.setState({ stage: 'packing' })
        const list = contentsOfParcel(project, files)
        const entries = [
          { fileName: 'what is inside.txt', bytes: new TextEncoder().encode(list) },
          ...files.map(({ fileName, bytes }) => ({ fileName, bytes })),
        ]
        return await computing.run((compute) => compute.pack(entries))
      } catch (error) {
        state.setState({
          problem: isStopped
            ? 'It was stopped; nothing was saved'
            : error instanceof Error
              ? error.message
              : String(error),
        })
        return null
      } finally {
        state.setState({ stage: null })
      }
    },

    stop(): void {
      isStopped = true
      const { stage } = state.getState()
      if (stage === 'pages') printing.stop()
      else if (stage === 'sound') soundFiles.stop()
      else computing.stop()
    },
  }
}

const divisionTicksPerQuarter = 960
