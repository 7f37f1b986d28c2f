import { Dices } from 'lucide-react'
import { useMemo, useState } from 'react'
import { endOf, type Generator, type GeneratorWork, problemsOf } from '@/core/generators/generator'
import { contextOf } from '@/core/project/context'
import { changeGenerator, generatorTitles, removeGenerator } from '@/core/project/generatorCommands'
import { generatedNotes, printGenerators } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { throwAnew } from '@/state/throws'
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
        {hasChance && (
          <span className="flex items-center gap-2 text-[13px]">
            <span className="text-soft">throw {generator.seed}</span>
            <Button
              className="px-2 py-0.5 text-[12px]"
              onClick={() => change('another throw', (old) => throwAnew(old))}
            >
              <Dices size={14} aria-hidden /> Another throw
            </Button>
            <Tick
              isOn={generator.isSeedKept}
              onChange={(isSeedKept) =>
                change(isSeedKept ? 'keep this throw' : 'throw anew at every start', (old) => ({
                  ...old,
                  isSeedKept,
                }))
              }
            >
              keep this one
            </Tick>
            {generator.earlierSeeds.length > 0 && (
              <select
                aria-label="Earlier throws"
                className="rounded border border-rule bg-sheet px-1 py-0.5 text-[12px]"
                value=""
                onChange={(event) =>
                  change('return to an earlier throw', (old) => throwAnew(old, Number(event.target.value)))
                }
              >
                <option value="">earlier…</option>
                {[...generator.earlierSeeds].reverse().map((seed) => (
                  <option key={seed}>{seed}</option>
                ))}
              </select>
            )}
          </span>
        )}
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
