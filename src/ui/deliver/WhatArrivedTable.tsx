import { keyName } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import type { Project } from '@/core/project/schema'
import type { LineArrived } from '@/core/project/whatArrived'
import { positionText } from '@/core/time/positionText'
import type { Sent } from '@/state/transfers'

/** What arrived of one sending: as the receiver says it wrote it, and as it came back on an input. */
export function WhatArrivedTable({
  sent: { written, unknownAnswers, back, endedAtTicks, isMixed },
  project,
  title,
  isCable,
}: {
  sent: Sent
  project: Project
  title: string
  isCable: boolean
}) {
  const { meterMap } = contextOf(project)
  return (
    <section aria-label={`What arrived of ${title}`} className="mt-4 max-w-3xl">
      <h3 className="font-semibold">
        {title}
        {endedAtTicks !== null && `, ended at ${positionText(meterMap, endedAtTicks)}`}
      </h3>
      {isMixed && (
        <p role="status" className="text-live">
          Another program sent notes over the same cable meanwhile. What is written there is of both, so that
          the comparison says nothing: send again while nobody else does.
        </p>
      )}
      {unknownAnswers > 0 && (
        <p className="text-live">
          {unknownAnswers === 1 ? 'A program' : `${unknownAnswers} programs`} on the cable answered in a form
          that is not known here.
        </p>
      )}
      {isCable && written.length + unknownAnswers === 0 && (
        <p className="text-soft">No program on the cable says what it wrote.</p>
      )}
      {written.map(({ program, arrived: { lines, differences, more }, leftOut }, index) => {
        const wrong = lines.reduce((sum, line) => sum + wrongIn(line), 0)
        return (
          <div key={index}>
            <p role="status">
              {program}: {lines.reduce((sum, line) => sum + line.written, 0)} of{' '}
              {lines.reduce((sum, line) => sum + line.sent, 0)} notes written
              {wrong === 0 && more === 0 ? ', each as it is here.' : '.'}
              {Object.entries(leftOut).map(([why, count]) =>
                count > 0 ? ` Left out there: ${count}, ${why}.` : '',
              )}
              {more > 0 && ` ${more} more stand there that were not sent.`}
            </p>
            <table className="mt-1 w-full text-left text-[13px]">
              <thead>
                <tr className="border-b border-rule text-soft">
                  <th className="py-1 font-normal">staff here</th>
                  <th className="w-20 text-right font-normal">sent</th>
                  <th className="w-20 text-right font-normal">written</th>
                  <th className="w-28 text-right font-normal">at its place</th>
                  <th className="w-28 text-right font-normal">with its value</th>
                  <th className="w-28 text-right font-normal">on its staff</th>
                </tr>
              </thead>
              <tbody>
                {lines.map((line) => (
                  <tr key={line.name} className="border-b border-rule">
                    <td className="py-1">{line.name}</td>
                    <td className="text-right">{line.sent}</td>
                    {([line.written, line.placed, line.valued, line.onStaff] as const).map(
                      (count, column) => (
                        <td key={column} className={`text-right ${count < line.sent ? 'font-semibold' : ''}`}>
                          {count}
                        </td>
                      ),
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
            {differences.length > 0 && (
              <ul className="mt-1 text-[13px] text-soft" aria-label="Differences">
                {differences.map(({ name, note, what }) => (
                  <li key={`${note.line} ${note.key} ${note.onsetTicks}`}>
                    {positionText(meterMap, note.onsetTicks)}, {keyName(note.key)}, {name}: {what}
                  </li>
                ))}
              </ul>
            )}
          </div>
        )
      })}
      {back && (
        <p role="status">
          {back.back} of {back.sent} notes came back
          {back.delayMs !== null &&
            `, ${Math.abs(back.delayMs).toFixed(1)} ms ${back.delayMs < 0 ? 'earlier' : 'later'}, within ±${(back.jitterMs ?? 0).toFixed(1)} ms`}
          {back.more > 0 && `; ${back.more} came that were not sent`}.
        </p>
      )}
    </section>
  )
}

function wrongIn({ sent, written, placed, valued, onStaff }: LineArrived): number {
  return 4 * sent - written - placed - valued - onStaff
}
