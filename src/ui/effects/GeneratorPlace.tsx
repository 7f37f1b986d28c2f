import { useMemo, useState } from 'react'
import { endOf, type Generator, type GeneratorWork, problemsOf } from '@/core/generators/generator'
import { contextOf } from '@/core/project/context'
import { changeGenerator, generatorTitles, removeGenerator } from '@/core/project/generatorCommands'
import { generatedNotes, printGenerators } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { Button } from '../controls/Button'
import { EditableName } from '../controls/EditableName'
import { NumberField } from '../controls/NumberField'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { useSession } from '../workspace/sessionContext'
import { goTo, selectTrack } from '../workspace/viewStore'
import { ChartWork } from './ChartWork'
import { LanesWork } from './LanesWork'
import { SourceAndResult } from './SourceAndResult'
import { ThrowControl } from './ThrowControl'
import { TypedWork } from './TypedWork'

/** A generator: what it plays, whether it plays along, and printing. */
export function GeneratorPlace({ generator, project }: { generator: Generator; project: Project }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const context = contextOf(project)
  const change = (label: string, next: (old: Generator) => Generator, group?: string) =>
    apply(label, (before) => changeGenerator(before, generator.id, next), group && `${generator.id} ${group}`)
  const setWork = (label: string, work: GeneratorWork, group?: string) =>
    change(label, (old) => ({ ...old, work }), group)
  const ownEnd = endOf(generator, context)
  const [bars, setBars] = useState(16)
  const { stretch } = project.recording
  const range = stretch ?? { startTicks: 0, endTicks: ownEnd ?? context.meterMap.measure(bars).startTicks }
  const notes = useMemo(
    () => generatedNotes(generator, context, { startTicks: range.startTicks, endTicks: range.endTicks }, 1),
    [generator, context, range.startTicks, range.endTicks],
  )
  const problems = problemsOf(generator.work)
  const { work } = generator
  const hasChance = work.kind === 'lanes' || work.kind === 'accompaniment'
  const print = () => {
    let printed: readonly string[] = []
    apply(`print “${generator.name}”`, (before) => {
      const result = printGenerators(before, [generator.id], range)
      printed = result.printedTrackIds
      return result.project
    })
    if (printed[0]) {
      selectTrack(printed[0])
      goTo('tracks')
    }
  }
  return (
    <div className="min-w-0 overflow-y-auto px-6 py-3">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2>
          <EditableName
            name={generator.name}
            label="Generator"
            className="font-serif text-lg font-semibold"
            onRename={(name) => change(`rename to “${name}”`, (old) => ({ ...old, name }))}
          />
        </h2>
        <span className="text-[12px] text-soft">{generatorTitles[work.kind].title.toLowerCase()}</span>
        <Tick
          isOn={generator.isPlaying}
          onChange={(isPlaying) =>
            change(isPlaying ? 'let it play along' : 'let it rest', (old) => ({ ...old, isPlaying }))
          }
        >
          plays along
        </Tick>
        {hasChance && <ThrowControl thrown={generator} onChange={change} />}
        <Button
          look="quiet"
          className="ml-auto"
          onClick={() =>
            apply(`send ${generator.name} home`, (before) => removeGenerator(before, generator.id))
          }
        >
          Take it away
        </Button>
      </div>
      {work.kind === 'lanes' && <LanesWork work={work} onChange={setWork} />}
      {(work.kind === 'chords' || work.kind === 'accompaniment') && (
        <ChartWork work={work} problems={problems} onChange={setWork} />
      )}
      {work.kind === 'typed' && <TypedWork work={work} problems={problems} onChange={setWork} />}
      <div className="mt-3 flex flex-wrap items-center gap-3 rounded-md border border-rule bg-sheet px-4 py-2 text-[13px]">
        <Button look="main" disabled={notes.length === 0} onClick={print}>
          Print {notes.length.toLocaleString('en')} notes
        </Button>
        {stretch ? (
          <span className="text-soft">of the marked stretch</span>
        ) : ownEnd === null ? (
          <NumberField
            label="of"
            unit="bars"
            className="w-12"
            value={bars}
            min={1}
            max={2000}
            onChange={setBars}
          />
        ) : (
          <span className="text-soft">from beginning to end</span>
        )}
        <span className="text-soft">
          Each channel becomes a track of ordinary notes, and the generator rests. To keep it as a take
          instead, record: it plays along.
        </span>
      </div>
      <SourceAndResult
        source={[]}
        result={notes}
        sourceThread={threadOf(7)}
        resultThread={threadOf(project.generators.indexOf(generator) + 1)}
        resultTitle="what it plays"
        isResultAlone
      />
    </div>
  )
}
