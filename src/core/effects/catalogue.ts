import { z } from '../border/checks'
import { dealVoices, forceChannel } from './address/address'
import { everyNth, filter, probability } from './choice/choice'
import { fixedLength, gateToGrid, legato } from './force/length'
import { chanceForce, evenForce, fixedForce, touch } from './force/velocity'
import type { EffectGroup, NoteEffect } from './noteEffect'
import { chordInKey, fixedChord, parallel } from './pitch/harmony'
import { chancePitch, fold, intoTheScale, octaves, transpose } from './pitch/register'
import { defaultsOf, type SettingsOf, schemaOf } from './settings'
import { controllerMovement } from './shape/controllerMovement'
import { movementFields } from './shape/movement'
import { arpeggio } from './time/arpeggio'
import { echo, repeat } from './time/repeat'
import { strum } from './time/strum'
import { delay, humanise, swing, toGrid } from './time/timing'

/** Every note effect there is, by the name it is stored under. */
export const effects = {
  chordInKey,
  fixedChord,
  parallel,
  intoTheScale,
  transpose,
  octaves,
  fold,
  chancePitch,
  arpeggio,
  repeat,
  echo,
  strum,
  swing,
  toGrid,
  delay,
  humanise,
  probability,
  everyNth,
  filter,
  touch,
  fixedForce,
  evenForce,
  chanceForce,
  fixedLength,
  gateToGrid,
  legato,
  forceChannel,
  dealVoices,
  controllerMovement,
} as const

export type EffectKind = keyof typeof effects
export const effectKinds = Object.keys(effects) as [EffectKind, ...EffectKind[]]

export const effectGroups: readonly { readonly group: EffectGroup; readonly title: string }[] = [
  { group: 'pitch', title: 'Pitch' },
  { group: 'time', title: 'Time' },
  { group: 'choice', title: 'Choice' },
  { group: 'force', title: 'Force and length' },
  { group: 'address', title: 'Address' },
  { group: 'shape', title: 'Shape' },
]

/** An effect seen without the types of its own settings. */
export function effectOf(kind: EffectKind): NoteEffect {
  return effects[kind] as unknown as NoteEffect
}

/** A setting that moves with the bars instead of standing still. */
const movementSchema = z.object({ setting: z.string().max(40), ...movementFields })

export type Movement = Readonly<z.infer<typeof movementSchema>>

const seed = z.number().int().min(0).max(0xffffffff)

const slotBase = {
  id: z.string().min(1).max(100),
  isOn: z.boolean(),
  isSolo: z.boolean().default(false),
  seed,
  /** Chance is thrown anew at every start until a throw is kept. */
  isSeedKept: z.boolean().default(true),
  /** Throws that can be returned to, the latest last. */
  earlierSeeds: z.array(seed).max(50).default([]),
  movements: z.array(movementSchema).max(16).default([]),
}

/** One effect of a chain, with its settings checked against its own fields. */
export const effectSlotSchema = z
  .object({ ...slotBase, kind: z.enum(effectKinds), settings: z.unknown() })
  .transform((slot, context) => {
    const checked = settingsSchemas[slot.kind].safeParse(slot.settings ?? {})
    if (checked.success) return { ...slot, settings: checked.data as EffectSettings }
    for (const issue of checked.error.issues)
      context.addIssue({ ...issue, code: 'custom', path: ['settings', ...issue.path] })
    return z.NEVER
  })

const settingsSchemas = Object.fromEntries(
  effectKinds.map((kind) => [kind, schemaOf(effectOf(kind).fields)]),
) as Record<EffectKind, z.ZodType>

export type EffectSettings = Readonly<Record<string, string | number | boolean | readonly number[]>>
export type EffectSlot = Readonly<z.output<typeof effectSlotSchema>>

export const chainSchema = z.array(effectSlotSchema).max(32)

/** How a chain was changed while it played, in order. */
export const chainChangesSchema = z.array(z.object({ tick: z.number().int(), slots: chainSchema })).max(2000)

/** A slot with the values to begin with. */
export function newSlot<Kind extends EffectKind>(
  kind: Kind,
  id: string,
  settings: Partial<SettingsOf<(typeof effects)[Kind]['fields']>> = {},
  chanceSeed = 1,
): EffectSlot {
  return {
    id,
    kind,
    isOn: true,
    isSolo: false,
    seed: chanceSeed,
    isSeedKept: true,
    earlierSeeds: [],
    movements: [],
    settings: { ...defaultsOf(effectOf(kind).fields), ...settings } as EffectSettings,
  }
}

/** Whether an effect plays by chance, as it is set: another throw makes another result. */
export function isByChance(slot: EffectSlot): boolean {
  const { fields, usesChance } = effectOf(slot.kind)
  return (
    usesChance(slot.settings as never) ||
    slot.movements.some(({ setting, shape }) => setting in fields && shape === 'random and hold')
  )
}

/** Slots that are at work: those that are on, or the ones alone that are soloed. */
export function activeSlots(slots: readonly EffectSlot[]): readonly EffectSlot[] {
  const isSoloed = slots.some((slot) => slot.isSolo && slot.isOn)
  return slots.filter((slot) => slot.isOn && (!isSoloed || slot.isSolo))
}
