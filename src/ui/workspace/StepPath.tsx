import { activeSlots } from '@/core/effects/catalogue'
import { contextOf } from '@/core/project/context'
import { projectEndTicks } from '@/core/project/create'
import { hasEffects } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { useLive, useProject, useView } from './sessionContext'
import { goTo, type Step, steps } from './viewStore'

const titles: Record<Step, string> = {
  players: 'Players',
  record: 'Record',
  effects: 'Effects',
  tracks: 'Tracks',
  score: 'Score',
  deliver: 'Deliver',
}

function barCount(project: Project): number {
  const end = projectEndTicks(project)
  if (end === 0) return 0
  return contextOf(project).meterMap.measureAt(Math.max(0, end - 1)).index + 1
}

function count(number: number, one: string, many: string): string {
  return number === 0 ? `no ${many}` : `${number} ${number === 1 ? one : many}`
}

/** The work in its order, each step with its state in a word. */
export function StepPath() {
  const project = useProject()
  const current = useView((state) => state.step)
  const isRecording = useLive((state) => state.transport.state === 'recording')
  const sourceChains = project.sources.filter(({ effects }) => activeSlots(effects).length > 0)
  const chains = project.tracks.filter(hasEffects).length + sourceChains.length
  const generators = project.generators.length
  const states: Record<Step, string> = {
    players: count(project.sources.length, 'source', 'sources'),
    record: isRecording ? 'recording' : count(project.takes.length, 'take', 'takes'),
    effects:
      generators === 0
        ? count(chains, 'chain', 'chains')
        : `${chains > 0 ? `${count(chains, 'chain', 'chains')}, ` : ''}${count(generators, 'generator', 'generators')}`,
    tracks: count(project.tracks.length, 'track', 'tracks'),
    score: count(barCount(project), 'bar', 'bars'),
    deliver: project.tracks.length > 0 ? 'files' : 'nothing yet',
  }
  return (
    <nav
      aria-label="Steps of the work"
      className="relative order-last mx-auto flex w-full min-w-0 justify-center md:order-none md:w-auto md:flex-1"
    >
      <div className="absolute top-[6px] right-[8%] left-[8%] h-[2px] bg-rule" aria-hidden />
      <ol className="relative flex w-full max-w-[800px] justify-between">
        {steps.map((step, index) => {
          const isCurrent = step === current
          return (
            <li key={step} className="flex min-w-0 flex-1 justify-center">
              <button
                type="button"
                aria-current={isCurrent ? 'step' : undefined}
                title={`${titles[step]} (key ${index + 1})`}
                onClick={() => goTo(step)}
                className="group flex w-full max-w-[126px] min-w-0 flex-col items-center rounded-md"
              >
                <span
                  className={`h-[14px] w-[14px] rounded-full border-2 ${isCurrent ? 'border-ink bg-ink' : 'border-[#b9ad93] bg-paper group-hover:bg-rule'}`}
                  aria-hidden
                />
                <span className={`mt-1 text-[13px] ${isCurrent ? 'font-bold' : 'font-semibold text-soft'}`}>
                  {titles[step]}
                </span>
                <span
                  className={`max-w-full truncate text-[11px] ${step === 'record' && isRecording ? 'font-bold text-live' : 'text-soft'}`}
                >
                  {states[step]}
                </span>
              </button>
            </li>
          )
        })}
      </ol>
    </nav>
  )
}
