import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { type BarsResult, copyBars, insertBars, lastBar, moveBars, removeBars } from '@/core/project/bars'
import { contextOf } from '@/core/project/context'
import { splitTrack } from '@/core/project/moveMaterial'
import type { Project, Track } from '@/core/project/schema'
import { nameSection, nextSectionName } from '@/core/project/sections'
import { markedBars } from '@/core/project/stretch'
import { Button } from '../../controls/Button'
import { EditableName } from '../../controls/EditableName'
import { NumberFields } from '../../controls/NumberFields'
import { useSession } from '../../workspace/sessionContext'
import { selectTrack, tell } from '../../workspace/viewStore'
import { PlayedBars } from './PlayedBars'

const furthestBar = 99_999
const rangeSettings = [
  { name: 'first', label: 'Bars', min: 1, max: furthestBar },
  { name: 'last', label: 'to', min: 1, max: furthestBar },
] as const
const insertSettings = [
  { name: 'count', label: 'Insert', min: 1, max: 999 },
  { name: 'before', label: 'bars before bar', min: 1, max: furthestBar },
] as const
const goalSettings = [{ name: 'goal', label: 'to before bar', min: 1, max: furthestBar }] as const

/** Bars through all tracks at once, and the sections of the piece. */
export function BarsBench({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const marked = markedBars(project)
  const [bars, setBars] = useState({ first: marked?.first ?? 1, last: marked?.last ?? 1 })
  const [inserting, setInserting] = useState({ count: 1, before: marked?.first ?? 1 })
  const [goal, setGoal] = useState({ goal: lastBar(project) + 1 })
  const { meterMap } = contextOf(project)
  const here = meterMap.measureAt(Math.max(0, session.positionTicks())).index + 1

  const run = (label: string, change: (before: Project) => BarsResult, done: string) => {
    let result: BarsResult | null = null
    const isDone = session.store.getState().apply(label, (before) => {
      result = change(before)
      return result.project
    })
    const told = result as BarsResult | null
    if (!isDone || !told) return
    if (told.problem) {
      session.notify(told.problem, true)
      return
    }
    const parts = [
      told.moved > 0 ? `${told.moved.toLocaleString('en')} notes have another place` : '',
      told.removed > 0 ? `${told.removed.toLocaleString('en')} are gone` : '',
      told.shortened > 0 ? `${told.shortened.toLocaleString('en')} were cut short` : '',
    ].filter(Boolean)
    tell(`${done}${parts.length > 0 ? `: ${parts.join(', ')}` : ''}`, session.store.getState().project)
  }
  const named = bars.first === bars.last ? `bar ${bars.first}` : `bars ${bars.first} to ${bars.last}`
  return (
    <section aria-label="Bars and sections" className="space-y-3 text-[13px]">
      <PlayedBars project={project} />
      <div className="flex flex-wrap items-center gap-1.5 border-t border-rule pt-2">
        <NumberFields
          settings={insertSettings}
          values={inserting}
          onChange={(name, value) => setInserting({ ...inserting, [name]: value })}
        />
        <Button
          className="px-2 py-0.5"
          onClick={() =>
            run(
              `insert ${inserting.count} bars`,
              (before) => insertBars(before, inserting.before, inserting.count),
              `${inserting.count} ${inserting.count === 1 ? 'bar' : 'bars'} put in before bar ${inserting.before}`,
            )
          }
        >
          Insert
        </Button>
      </div>
      <div className="space-y-1.5 border-t border-rule pt-2">
        <div className="flex flex-wrap items-center gap-1.5">
          <NumberFields
            settings={rangeSettings}
            values={bars}
            onChange={(name, value) =>
              setBars(
                name === 'first'
                  ? { first: value, last: Math.max(value, bars.last) }
                  : { first: Math.min(value, bars.first), last: value },
              )
            }
          />
          <Button
            className="px-2 py-0.5"
            onClick={() => run(`remove ${named}`, (before) => removeBars(before, bars), `${named} taken out`)}
          >
            Remove
          </Button>
        </div>
        <div className="flex flex-wrap items-center gap-1.5">
          <NumberFields
            settings={goalSettings}
            values={goal}
            onChange={(_, value) => setGoal({ goal: value })}
          />
          <Button
            className="px-2 py-0.5"
            onClick={() =>
              run(
                `move ${named}`,
                (before) => moveBars(before, bars, goal.goal),
                `${named} moved before bar ${goal.goal}`,
              )
            }
          >
            Move
          </Button>
          <Button
            className="px-2 py-0.5"
            onClick={() =>
              run(
                `copy ${named}`,
                (before) => copyBars(before, bars, goal.goal),
                `${named} copied before bar ${goal.goal}`,
              )
            }
          >
            Copy
          </Button>
        </div>
        <p className="text-[12px] text-soft">
          Through all tracks, with tempo, meter, curves and sections. Generators and the backing track stay.
        </p>
      </div>
      <div className="border-t border-rule pt-2">
        <Button
          className="px-2 py-0.5"
          onClick={() => {
            let newId: string | null = null
            let carried = 0
            session.store.getState().apply(`split “${track.name}”`, (before) => {
              const result = splitTrack(before, track.id, meterMap.measure(bars.first - 1).startTicks)
              newId = result.newTrackId
              carried = result.carried
              return result.project
            })
            if (newId) selectTrack(newId)
            tell(
              newId
                ? `${carried.toLocaleString('en')} notes from bar ${bars.first} on are on a track of their own`
                : `All notes of ${track.name} lie on one side of bar ${bars.first}`,
              session.store.getState().project,
            )
          }}
        >
          Split {track.name.slice(0, 16)} at bar {bars.first}
        </Button>
      </div>
      <div className="space-y-1 border-t border-rule pt-2">
        <div className="flex items-center justify-between">
          <h3 className="font-semibold">Sections</h3>
          <Button
            className="px-2 py-0.5"
            onClick={() =>
              session.store
                .getState()
                .apply('name a section', (before) =>
                  nameSection(before, here, nextSectionName(before.sections)),
                )
            }
          >
            Begin one at bar {here}
          </Button>
        </div>
        {project.sections.length === 0 && (
          <p className="text-[12px] text-soft">
            Named parts of the piece: rehearsal marks on the page, markers in MIDI files.
          </p>
        )}
        <ul aria-label="Sections">
          {project.sections.map(({ tick, name }) => {
            const bar = meterMap.measureAt(tick).index + 1
            return (
              <li key={tick} className="flex items-center gap-2">
                <button
                  type="button"
                  className="text-soft underline-offset-2 hover:underline"
                  onClick={() => session.seek(tick)}
                >
                  bar {bar}
                </button>
                <span className="min-w-0 flex-1">
                  <EditableName
                    name={name}
                    label="Section"
                    className="font-semibold"
                    onRename={(next) =>
                      session.store
                        .getState()
                        .apply('rename a section', (before) => nameSection(before, bar, next))
                    }
                  />
                </span>
                <Button
                  look="quiet"
                  className="px-1 py-0.5"
                  aria-label={`Take the section ${name} away`}
                  onClick={() =>
                    session.store
                      .getState()
                      .apply('take a section away', (before) => nameSection(before, bar, ''))
                  }
                >
                  <Trash2 size={13} aria-hidden />
                </Button>
              </li>
            )
          })}
        </ul>
      </div>
    </section>
  )
}
