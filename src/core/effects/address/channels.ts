import { activeSlots, type EffectSlot } from '../catalogue'

const lastChannel = 16
const everyChannel = Array.from({ length: lastChannel }, (_, index) => index + 1)

/**
 * The channels on which a chain lets its notes out: those of the last of its effects that addresses notes.
 *
 * @returns null where no effect does, so that notes keep the channel they came on
 */
export function addressedChannels(slots: readonly EffectSlot[]): readonly number[] | null {
  const slot = activeSlots(slots).findLast(({ kind }) => kind === 'dealVoices' || kind === 'forceChannel')
  if (!slot) return null
  if (slot.movements.length > 0) return everyChannel
  const at = (name: string) => Math.round(Number(slot.settings[name]))
  if (slot.kind === 'forceChannel') return [at('channel')]
  const first = at('first')
  return everyChannel.slice(first - 1, first - 1 + at('voices'))
}
