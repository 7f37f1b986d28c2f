/** A moment at which something begins. */
export interface Attack {
  readonly timeMs: number
  /** How far it stands out from what is around it (`AttackStrength`). */
  readonly strength: number
}

/**
 * The tops of attack strength that stand out from what is around them.
 *
 * Source: S. Böck, F. Krebs and M. Schedl, "Evaluating the Online Capabilities of Onset Detection Methods", ISMIR 2012 (the way of picking).
 *
 * @param strength at each step (`ListenedSound.attacks`)
 * @param least how far a top must stand out
 */
export function attacksIn(strength: Float32Array, stepMs: number, least: number): Attack[] {
  const attacks: Attack[] = []
  const apart = Math.round(30 / stepMs)
  const around = Math.round(100 / stepMs)
  let last = -apart
  for (let index = 0; index < strength.length; index++) {
    const here = strength[index]!
    let isTop = here > 0
    for (let each = index - apart; isTop && each <= index + apart; each++)
      if ((strength[each] ?? 0) > here) isTop = false
    if (!isTop || index - last < apart) continue
    let sum = 0
    let count = 0
    for (
      let each = Math.max(0, index - around);
      each < Math.min(strength.length, index + around / 2);
      each++
    ) {
      sum += strength[each]!
      count++
    }
    const above = here - sum / count
    if (above < least) continue
    attacks.push({ timeMs: index * stepMs, strength: above })
    last = index
  }
  return attacks
}
