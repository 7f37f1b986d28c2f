import { stretchOf } from '@/core/capture/takeInfo'
import { createDemo, seatComputerKeyboard, seatStandIns } from '@/core/demo/harbourEvening'
import { openableEndings } from '@/core/formats/openFile'
import { emptyProject } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { applyTemplate, type Template } from '@/core/project/template'
import { journal } from '@/engine/journal/journal'
import { journalTakeOf } from '@/engine/journal/journalTake'
import { keptSounds } from '@/engine/keptSound/keptSounds'
import { computerKeyboardPortId } from '@/engine/midiInput/computerKeyboard'
import { assetsOf, putAsset } from '@/state/assets'
import type { Computing } from '@/state/computing'
import { keepAside, loadProject, saveProject } from '@/state/database'

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
  const { project, events } = createDemo(newProjectId(), Date.now(), computerKeyboardPortId)
  await journal.put(journalTakeOf(project.id, project.takes[0]!), events)
  await saveProject(project, new Map(), Date.now())
  return project
}

/** A file that was brought in, with what there is to say about it. */
export interface BroughtIn {
  readonly project: Project
  readonly warnings: readonly string[]
}

/** Brings in a file of any kind that is known, by what is in it. */
export async function bringIn(computing: Computing, file: File): Promise<BroughtIn> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const id = newProjectId()
  const name = withoutEnding(file.name) || 'From a file'
  // It can be stopped while it is read; what is read is stored whole.
  const { project, takes, assets, sounds, aside, warnings } = await computing.run((compute) =>
    compute.open(bytes, { id, name, nowMs: Date.now() }),
  )
  const own = { ...project, id }
  for (const asset of assets) await putAsset(id, asset.assetId, asset.bytes)
  for (const { outline, flac } of sounds) await keptSounds.put(id, outline, flac)
  for (const { takeSerial, events } of takes) {
    const info = own.takes.find((take) => take.serial === takeSerial)
    if (info) await journal.put(journalTakeOf(id, info), events)
  }
  if (aside.length > 0) await keepAside(id, aside, Date.now())
  await saveProject(own, new Map(), Date.now())
  return { project: own, warnings }
}

/** A file's name as the name of a piece. */
function withoutEnding(fileName: string): string {
  const ending = openableEndings.find((each) => fileName.toLowerCase().endsWith(each))
  return ending ? fileName.slice(0, -ending.length) : fileName
}

/** More sound than this does not go into a file of a piece by itself. */
const mostSoundBytes = 300e6

/** A stored project as one file, with its takes as played, and their sound unless there are hours of it. */
export async function packProject(
  computing: Computing,
  id: string,
): Promise<{ name: string; bytes: Uint8Array; isWithoutSound: boolean } | null> {
  const loaded = await loadProject(id)
  if (!loaded) return null
  const { project } = loaded
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
  const stretches = project.takes.map(stretchOf)
  const isSoundSmall = (await keptSounds.sizeOf(id, stretches)) < mostSoundBytes
  const sounds = isSoundSmall ? await keptSounds.soundsIn(id, stretches) : []
  return computing.run(async (compute) => ({
    name: project.name,
    isWithoutSound: !isSoundSmall,
    bytes: await compute.exportProject({ project, takes, assets, sounds }),
  }))
}
