import { createStore } from 'zustand/vanilla'
import { misfit } from '@/core/project/fit'
import type { Project } from '@/core/project/schema'

interface HistoryStep {
  /** What was done, as it follows "Undo": "move 3 notes". */
  readonly label: string
  readonly project: Project
  /** Steps with the same key that follow closely are one step: a slider being dragged. */
  readonly groupKey: string | null
  readonly atMs: number
}

export interface ProjectState {
  readonly project: Project
  /** Before each change, the latest last. */
  readonly past: readonly HistoryStep[]
  readonly future: readonly HistoryStep[]
  /** Earlier steps that can no longer be taken back. */
  readonly forgottenSteps: number
  /** Another tab has the project: nothing can be changed here. */
  readonly isReadOnly: boolean
  /**
   * A change that makes something that could not be stored and read again is refused, and that is said.
   *
   * @param groupKey changes with the same key that follow each other within `groupWithinMs` are one step of history
   * @returns whether the project is now as the change wants it
   */
  apply(
    label: string,
    change: (project: Project) => Project,
    groupKey?: string,
    groupWithinMs?: number,
  ): boolean
  undo(): void
  redo(): void
  setReadOnly(isReadOnly: boolean): void
}

/** Steps that can be taken back; what is older is forgotten, and that is said. */
const mostSteps = 1000
const groupMs = 900

export type ProjectStore = ReturnType<typeof createProjectStore>

/** The open project with its history. Projects are never changed in place, so a step of history is a reference. */
export function createProjectStore(
  initial: Project,
  onRefused: (sentence: string) => void = () => undefined,
) {
  return createStore<ProjectState>((set, get) => ({
    project: initial,
    past: [],
    future: [],
    forgottenSteps: 0,
    isReadOnly: false,
    apply(label, change, groupKey, groupWithinMs = groupMs) {
      const { project, past, isReadOnly } = get()
      if (isReadOnly) return false
      const next = change(project)
      if (next === project) return true
      const problem = misfit(next, project)
      if (problem) {
        onRefused(`${problem} Nothing was changed.`)
        return false
      }
      const atMs = Date.now()
      const last = past.at(-1)
      const joins = groupKey !== undefined && last?.groupKey === groupKey && atMs - last.atMs < groupWithinMs
      const step = { label, project: joins ? last.project : project, groupKey: groupKey ?? null, atMs }
      const steps = [...(joins ? past.slice(0, -1) : past), step]
      const forgotten = Math.max(0, steps.length - mostSteps)
      set({
        project: next,
        past: steps.slice(forgotten),
        future: [],
        forgottenSteps: get().forgottenSteps + forgotten,
      })
      return true
    },
    undo() {
      const { project, past, future, isReadOnly } = get()
      const step = past.at(-1)
      if (!step || isReadOnly) return
      set({
        project: keepSerials(step.project, project),
        past: past.slice(0, -1),
        future: [...future, { ...step, project }],
      })
    },
    redo() {
      const { project, past, future, isReadOnly } = get()
      const step = future.at(-1)
      if (!step || isReadOnly) return
      set({
        project: keepSerials(step.project, project),
        past: [...past, { ...step, project }],
        future: future.slice(0, -1),
      })
    },
    setReadOnly(isReadOnly) {
      set({ isReadOnly })
    },
  }))
}

/** Numbers once given are never given again, also not after undo. */
function keepSerials(restored: Project, current: Project): Project {
  return { ...restored, nextSerial: Math.max(restored.nextSerial, current.nextSerial) }
}
