import type { Ledger } from '@/core/ledger/ledger'

/** The account of notes as lines, with what it adds up to. */
export function LedgerLines({ ledger }: { ledger: Ledger }) {
  const filtered = ledger.filtered.reduce((sum, { count }) => sum + count, 0)
  return (
    <ul className="space-y-0.5 text-[13px]" data-testid="ledger">
      <li>
        <strong>{ledger.captured}</strong> captured
      </li>
      <li>
        <strong>{ledger.written}</strong> written
      </li>
      {ledger.coincident > 0 && (
        <li>
          <strong>{ledger.coincident}</strong> of these on the key of another voice
        </li>
      )}
      <li>
        <strong>{ledger.merged}</strong> merged: doubles, ornaments
      </li>
      {ledger.filtered.map(({ reason, count }) => (
        <li key={reason}>
          <strong>{count}</strong> {reason}, left out
        </li>
      ))}
      <li className="text-soft">
        {ledger.captured} = {ledger.written} + {ledger.merged} + {filtered}
      </li>
    </ul>
  )
}
