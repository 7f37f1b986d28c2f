import { type Remote, wrap } from 'comlink'
import { createDemo, seatComputerKeyboard, seatStandIns } from '@/core/demo/harbourEvening'
import { emptyProject } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { applyTemplate, type Template } from '@/core/project/template'
import type { ComputeApi } from '@/engine/compute/compute.worker'
import { journal } from '@/engine/journal/journal'
import { computerKeyboardPortId } from '@/engine/midiInput/computerKeyboard'
import { assetsOf, putAsset } from '@/state/assets'
import { loadProject, saveProject } from '@/state/database'

/** A new id for a project. */
export function newProjectId(): string {
  return crypto.randomUUID()
}

/** How a new piece starts: with the computer keyboard, with the stand-ins too, or as a saved set-up. */
export type Start = 'keyboard' | 'standIns' | Template

export async function createEmptyProject(start: Start): Promise<Project> {
  const empty = emptyProject(newProjectId(), 'New piece', Date.now())
  const withKeyboard = seatComputerKeyboard(empty, computerKeyboardPortId)
  const project =
    start === 'keyboard'
      ? withKeyboard
      : start === 'standIns'
        ? seatStandIns(withKeyboard)
        : applyTemplate(empty, start)
  await saveProject(project, new Map(), Date.now())
  return project
}

export async function createDemoProject(): Promise<Project> {
  const { project, takeSerial, events } = createDemo(newProjectId(), Date.now(), computerKeyboardPortId)
  const take = project.takes[0]!
  await journal.put(
    {
      projectId: project.id,
      takeSerial,
      startTicks: take.startTicks,
      endTicks: null,
      earlyMs: take.earlyMs,
      passMs: null,
      anchorMs: take.anchorMs,
      endMs: take.anchorMs + take.durationMs,
    },
    events,
  )
  await saveProject(project, new Map(), Date.now())
  return project
}

/** Runs one piece of work in a compute worker of its own. */
async function withCompute<Result>(work: (compute: Remote<ComputeApi>) => Promise<Result>): Promise<Result> {
  const worker = new Worker(new URL('../../engine/compute/compute.worker.ts', import.meta.url), {
    type: 'module',
  })
  try {
    return await work(wrap<ComputeApi>(worker))
  } finally {
    worker.terminate()
  }
}

/** Brings in a Standard MIDI File or a project file, by what is in it. */
export async function bringIn(file: File): Promise<{ project: Project; warnings: readonly string[] }> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const isArchive = bytes[0] === 0x50 && bytes[1] === 0x4b
  return withCompute(async (compute) => {
    const id = newProjectId()
    if (isArchive) {
      const { project, takes, assets } = await compute.importProject(bytes)
      const own = { ...project, id }
      for (const asset of assets) await putAsset(id, asset.assetId, asset.bytes)
      for (const { takeSerial, events } of takes) {
        const info = own.takes.find((take) => take.serial === takeSerial)
        if (info)
          await journal.put(
            {
              projectId: id,
              takeSerial,
              startTicks: info.startTicks,
              endTicks: null,
              earlyMs: info.earlyMs,
              passMs: null,
              anchorMs: info.anchorMs,
              endMs: info.anchorMs + info.durationMs,
            },
            events,
          )
      }
      await saveProject(own, new Map(), Date.now())
      return { project: own, warnings: [] }
    }
    const name = file.name.replace(/\.(mid|midi|smf|kar)$/i, '') || 'From a file'
    const { project, warnings } = await compute.importMidi(bytes, { id, name, nowMs: Date.now() })
    await saveProject(project, new Map(), Date.now())
    return { project, warnings }
  })
}

/** A stored project as one file, with its takes as played. */
export async function packProject(id: string): Promise<{ name: string; bytes: Uint8Array } | null> {
  const project = await loadProject(id)
  if (!project) return null
  const takes = await Promise.all(
    project.takes.map(async (take) => ({
      takeSerial: take.serial,
      events: await journal.eventsOf(id, take.serial),
    })),
  )
  const assets = await assetsOf(
    id,
    project.assets.map((asset) => asset.id),
  )
  return withCompute(async (compute) => ({
    name: project.name,
    bytes: await compute.exportProject({ project, takes, assets }),
  }))
}
