import { keySignatureName } from '@/core/notation/keyFinding'
import type { KeySignature } from '@/core/notation/scoreSettings'

export const keyText = ({ fifths, mode }: KeySignature) => `${fifths} ${mode}`

export function keyFromText(text: string): KeySignature {
  const [fifths, mode] = text.split(' ')
  return { fifths: Number(fifths), mode: mode as KeySignature['mode'] }
}

/** All keys with up to seven signs, to choose from. */
export const everyKey = (['major', 'minor'] as const).flatMap((mode) =>
  Array.from({ length: 15 }, (_, index) => {
    const key = { fifths: index - 7, mode }
    return { value: keyText(key), text: keySignatureName(key) }
  }),
)
