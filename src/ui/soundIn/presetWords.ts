import type { ListenerPreset } from '@/core/pitch/listenerSettings'

/** Kinds of sources whose sound is read, in words. */
export const presetWords: Readonly<Record<ListenerPreset, string>> = {
  any: 'any instrument',
  voice: 'a voice',
  guitar: 'a guitar',
  bass: 'a bass',
  wind: 'a wind instrument',
  string: 'a bowed string',
}

export const presetOptions = (Object.keys(presetWords) as ListenerPreset[]).map((value) => ({
  value,
  text: presetWords[value],
}))
