import type { DBSchema } from 'idb'
import { createStore } from 'zustand/vanilla'
import { z } from '@/core/border/checks'
import { chainSchema, type EffectSlot } from '@/core/effects/catalogue'
import { type Track, trackHeadSchema } from '@/core/project/schema'
import { readTemplate, type Template } from '@/core/project/template'
import { boundedName, longestName } from '@/core/text/bounded'
import { openAtUse } from '@/engine/openAtUse'

/** What belongs to the place where one works, not to one project: cables, templates, chains of effects, names of kits. */
interface RigSchema extends DBSchema {
  cables: { key: string; value: { name: string } }
  templates: { key: string; value: { id: string; template: unknown } }
  chains: { key: string; value: { name: string } }
  kits: { key: string; value: { name: string } }
}

const { open } = openAtUse<RigSchema>('unbroken-voice-rig', 3, (db, oldVersion) => {
  if (oldVersion < 1) {
    db.createObjectStore('cables', { keyPath: 'name' })
    db.createObjectStore('templates', { keyPath: 'id' })
  }
  if (oldVersion < 2) db.createObjectStore('chains', { keyPath: 'name' })
  db.createObjectStore('kits', { keyPath: 'name' })
})

/** One cable is always there, so that two programs can be joined without setting up anything. */
export const firstCable = 'Quayside'

interface CablesState {
  readonly names: readonly string[]
}

/** Tabs tell each other when the list has changed. */
const channelName = 'unbroken-cables'

/** The virtual cables of this browser, the same list in every tab. */
export function followCables() {
  const store = createStore<CablesState>(() => ({ names: [firstCable] }))
  const channel = new BroadcastChannel(channelName)
  const refresh = async () => {
    const names = (await (await open()).getAll('cables')).map((cable) => cable.name)
    store.setState({ names: [...new Set([firstCable, ...names])] })
  }
  const changed = async () => {
    await refresh()
    channel.postMessage('changed')
  }
  channel.onmessage = () => void refresh()
  void refresh()
  return {
    store,
    /** @returns the name as it is kept */
    async add(name: string): Promise<string> {
      const kept = boundedName(name.trim()) || firstCable
      await (await open()).put('cables', { name: kept })
      await changed()
      return kept
    },
    async remove(name: string): Promise<void> {
      await (await open()).delete('cables', name)
      await changed()
    },
    close: () => channel.close(),
  }
}

/** Saved set-ups, the newest first; one that cannot be read stays in storage, and the reason is given. */
export async function listTemplates(): Promise<{
  readonly templates: Template[]
  readonly unreadable: readonly string[]
}> {
  const templates: Template[] = []
  const unreadable: string[] = []
  for (const { template } of await (await open()).getAll('templates')) {
    try {
      templates.push(readTemplate(template))
    } catch (error) {
      unreadable.push(error instanceof Error ? error.message : String(error))
    }
  }
  return { templates: templates.sort((a, b) => b.savedAtMs - a.savedAtMs), unreadable }
}

/** @throws ProjectFormatError with a sentence where it could not be read again */
export async function saveTemplate(template: Template): Promise<void> {
  readTemplate(template)
  await (await open()).put('templates', { id: template.id, template })
}

export async function deleteTemplate(id: string): Promise<void> {
  await (await open()).delete('templates', id)
}

/** Things that are kept under a name. */
export interface KeptShelf<Kept extends { readonly name: string }> {
  /** By name; one that cannot be read stays in storage, and its name is given. */
  list(): Promise<{ readonly kept: Kept[]; readonly unreadable: readonly string[] }>
  /** @throws Error with a sentence where it could not be read again */
  save(thing: Kept): Promise<void>
  remove(name: string): Promise<void>
}

function keptShelf<Kept extends { readonly name: string }>(
  storeName: 'chains' | 'kits',
  schema: z.ZodType<Kept>,
  what: string,
): KeptShelf<Kept> {
  return {
    async list() {
      const kept: Kept[] = []
      const unreadable: string[] = []
      for (const stored of await (await open()).getAll(storeName)) {
        const read = schema.safeParse(stored)
        if (read.success) kept.push(read.data)
        else unreadable.push(String(stored.name))
      }
      return { kept, unreadable }
    },
    async save(thing) {
      const checked = schema.safeParse(thing)
      if (!checked.success) throw new Error(`${what} cannot be kept: ${checked.error.issues[0]!.message}`)
      await (await open()).put(storeName, thing)
    },
    async remove(name) {
      await (await open()).delete(storeName, name)
    },
  }
}

export interface ChainPreset {
  readonly name: string
  readonly slots: readonly EffectSlot[]
}

/** What the keys of a kit are called, kept for any project. */
export interface KeptKit {
  readonly name: string
  readonly keyNames: Track['keyNames']
}

const keptName = z.string().min(1).max(longestName)

export const keptChains = keptShelf<ChainPreset>(
  'chains',
  z.object({ name: keptName, slots: chainSchema }),
  'The chain',
)

export const keptKits = keptShelf<KeptKit>(
  'kits',
  z.object({ name: keptName, keyNames: trackHeadSchema.shape.keyNames }),
  'The kit',
)
