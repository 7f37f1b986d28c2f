import { TriangleAlert } from 'lucide-react'
import { acceptRemark } from '@/core/project/settings'
import type { WiringRemark } from '@/core/wiring/wiringRemark'
import { Button } from '../controls/Button'
import { useSession } from '../workspace/sessionContext'

/** A remark on the wiring in full, with its remedies and the way to say that it is meant so. */
export function RemarkNote({ remark, onOpen }: { remark: WiringRemark; onOpen: () => void }) {
  const apply = useSession().store.getState().apply
  return (
    <>
      <button type="button" className="text-left" onClick={onOpen}>
        <strong>{remark.head}</strong> {remark.text}
      </button>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Remedies remark={remark} />
        <Button
          look="quiet"
          className="px-1.5 py-0.5 text-[12px]"
          aria-label={`It is meant so: ${remark.head}`}
          onClick={() => apply('it is meant so', (before) => acceptRemark(before, remark.id))}
        >
          meant so
        </Button>
      </div>
    </>
  )
}

function Remedies({ remark }: { remark: WiringRemark }) {
  const apply = useSession().store.getState().apply
  return remark.fixes.map(({ label, change }) => (
    <Button key={label} className="px-2 py-0.5 text-[12px]" onClick={() => apply(label, change)}>
      {label}
    </Button>
  ))
}

/** The remarks on one player or track, on its card: what is the matter, and the remedies when the card is open. */
export function CardRemarks({ remarks, isOpen }: { remarks: readonly WiringRemark[]; isOpen: boolean }) {
  if (remarks.length === 0) return null
  return (
    <ul className="mt-1 space-y-1 text-[12px]" aria-label="Something to see to">
      {remarks.map((remark) => (
        <li key={remark.id} title={remark.text}>
          <p>
            <TriangleAlert size={13} className="mr-1 inline text-weld" aria-hidden />
            <strong>{remark.head}</strong> {isOpen && remark.text}
          </p>
          <div className="mt-0.5 flex flex-wrap gap-1">
            {isOpen ? <Remedies remark={remark} /> : <Remedies remark={firstRemedy(remark)} />}
          </div>
        </li>
      ))}
    </ul>
  )
}

function firstRemedy(remark: WiringRemark): WiringRemark {
  return { ...remark, fixes: remark.fixes.slice(0, 1) }
}
