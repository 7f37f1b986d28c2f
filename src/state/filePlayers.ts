import { type FilePlayerPart, filePlayerParts, partsPerPort } from '@/core/capture/filePlayer'
import { readMidiFile } from '@/core/midi/standardMidiFile/read'
import { addSource } from '@/core/project/commands'
import type { Project } from '@/core/project/schema'
import { filePortId } from '@/core/routing/ports'
import { boundedName } from '@/core/text/bounded'
import { getAsset, putAsset } from './assets'
import type { ProjectStore } from './projectStore'

export type FilePlayers = ReturnType<typeof createFilePlayers>

const portOf = (assetId: string, partIndex: number) => {
  const bank = Math.floor(partIndex / partsPerPort)
  return filePortId(bank === 0 ? assetId : `${assetId}/${bank + 1}`)
}

/** Standard MIDI Files that sit among the players: each part a source, performed when the transport runs. */
export function createFilePlayers(store: ProjectStore) {
  const read = new Map<string, readonly FilePlayerPart[]>()

  async function load(project: Project): Promise<void> {
    for (const asset of project.assets) {
      if (asset.mediaType !== 'audio/midi' || read.has(asset.id)) continue
      const bytes = await getAsset(project.id, asset.id)
      if (bytes) read.set(asset.id, filePlayerParts(readMidiFile(bytes)))
    }
  }

  return {
    /** To be called once a project is open. */
    load: () => load(store.getState().project),

    /**
     * Seats the parts of a file as players.
     *
     * @throws MidiFileError when it is not a Standard MIDI File; Error when it has no note
     */
    async seat(fileName: string, bytes: Uint8Array): Promise<void> {
      const parts = filePlayerParts(readMidiFile(bytes))
      if (parts.length === 0) throw new Error('There is no note in the file')
      const assetId = `asset-${crypto.randomUUID()}`
      const { project } = store.getState()
      await putAsset(project.id, assetId, bytes)
      read.set(assetId, parts)
      const title = boundedName(fileName.replace(/\.\w+$/, ''))
      store.getState().apply(`seat the file “${title}”`, (before) => {
        const asset = {
          id: assetId,
          name: boundedName(fileName),
          mediaType: 'audio/midi',
          byteLength: bytes.byteLength,
        }
        return parts.reduce(
          (next, part, index) =>
            addSource(
              next,
              {
                id: `${assetId} ${index + 1}`,
                name: boundedName(part.name),
                kind: 'midiFile',
                address: { portId: portOf(assetId, index), channel: part.channel },
                description: boundedName(`plays from ${title}`),
                portName: title,
                group: parts.length > 1 ? title : '',
                compensationMs: 0,
                soundInput: null,
                effects: [],
              },
              part.instrument,
            ),
          { ...before, assets: [...before.assets, asset] },
        )
      })
    },

    /** The parts that sit in a project, by port. */
    seated(project: Project): { readonly portId: string; readonly parts: readonly FilePlayerPart[] }[] {
      return project.assets.flatMap((asset) => {
        const parts = read.get(asset.id) ?? []
        const byPort = new Map<string, FilePlayerPart[]>()
        for (const [index, part] of parts.entries()) {
          const portId = portOf(asset.id, index)
          const isSeated = project.sources.some(
            (source) => source.address.portId === portId && source.address.channel === part.channel,
          )
          if (isSeated) byPort.set(portId, [...(byPort.get(portId) ?? []), part])
        }
        return [...byPort].map(([portId, partsThere]) => ({ portId, parts: partsThere }))
      })
    },
  }
}
