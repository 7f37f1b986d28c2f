import { Dices } from 'lucide-react'
import { seedOfTurn } from '@/core/effects/turns'
import { type Thrown, throwAnew } from '@/state/throws'
import { Button } from '../controls/Button'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'

/** The throw of the dice of an effect or a generator: another one, kept, an earlier one again. */
export function ThrowControl({
  thrown,
  onChange,
}: {
  thrown: Thrown
  onChange: (label: string, change: <Thing extends Thrown>(old: Thing) => Thing) => void
}) {
  const session = useSession()
  return (
    <span className="flex items-center gap-2 text-[13px]">
      <span className="text-soft">throw {thrown.seed}</span>
      <Button
        className="px-2 py-0.5 text-[12px]"
        onClick={() => onChange('another throw', (old) => throwAnew(old))}
      >
        <Dices size={14} aria-hidden /> Another throw
      </Button>
      <Tick
        isOn={thrown.isSeedKept}
        onChange={(isSeedKept) =>
          onChange(isSeedKept ? 'keep this throw' : 'throw anew at every start', (old) => ({
            ...old,
            isSeedKept,
            // The one that is heard: in a loop each turn may have its own.
            ...(isSeedKept && { seed: seedOfTurn(old.seed, session.turn()) }),
          }))
        }
      >
        keep this one
      </Tick>
      {thrown.earlierSeeds.length > 0 && (
        <select
          aria-label="Earlier throws"
          className="rounded border border-rule bg-sheet px-1 py-0.5 text-[12px]"
          value=""
          onChange={(event) =>
            onChange('return to an earlier throw', (old) => throwAnew(old, Number(event.target.value)))
          }
        >
          <option value="">earlier…</option>
          {[...thrown.earlierSeeds].reverse().map((seed) => (
            <option key={seed}>{seed}</option>
          ))}
        </select>
      )}
    </span>
  )
}
