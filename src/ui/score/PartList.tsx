import { keyName } from '@/core/event/note'
import { transpositionNames, usualTransposition } from '@/core/notation/transposition'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { setTrack } from '@/core/project/settings'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { useSession } from '../workspace/sessionContext'

/** A player who is less late than this is not worth a word. */
const leastLatenessMs = 25

/** What is on the page, and how each part is written there. */
export function PartList({ project, outline }: { project: Project; outline: ScoreOutline | null }) {
  const session = useSession()
  return (
    <section aria-label="Parts">
      <ColumnHeading>On the page</ColumnHeading>
      <ul className="space-y-1">
        {project.tracks
          .filter((track) => soundingNotes(track).length > 0)
          .map((track) => {
            const part = outline?.parts.find((candidate) => candidate.trackId === track.id)
            return (
              <li
                key={track.id}
                className="border-l-[5px] pl-2.5"
                style={{ borderColor: threadOf(track.thread).colour }}
              >
                <Tick
                  isOn={track.isOnPage}
                  onChange={(isOnPage) =>
                    session.store
                      .getState()
                      .apply(
                        isOnPage ? `put ${track.name} on the page` : `take ${track.name} off the page`,
                        (before) => setTrack(before, track.id, { isOnPage }),
                      )
                  }
                >
                  <span className="truncate font-semibold" title={track.name}>
                    {track.name}
                  </span>
                </Tick>
                <span className="text-[12px] text-soft">
                  {part
                    ? part.splitKey !== null
                      ? `grand staff, split ${keyName(part.splitKey)}`
                      : part.clefs.length > 1
                        ? 'grand staff, by hands'
                        : part.clefs[0]
                    : track.isOnPage
                      ? '…'
                      : 'off the page'}
                </span>
                {/* It stays in its place while all parts are as they sound: what is below does not move under a second press. */}
                {track.isOnPage && track.instrument.kind !== 'drums' && (
                  <Choice
                    isDisabled={project.scoreSettings.isConcertPitch}
                    label={`${track.name} is written`}
                    isLabelHidden
                    value={track.writtenAs}
                    options={[
                      {
                        value: 'auto',
                        text: `${usualTransposition(track.instrument, track.name)} (as usual)`,
                      },
                      ...transpositionNames.map((name) => ({ value: name, text: `written ${name}` })),
                    ]}
                    onChange={(writtenAs) =>
                      session.store
                        .getState()
                        .apply(`write ${track.name} ${writtenAs}`, (before) =>
                          setTrack(before, track.id, { writtenAs }),
                        )
                    }
                  />
                )}
                {part && part.unplacedSyllables > 0 && (
                  <span className="block text-[12px] text-soft">
                    {part.unplacedSyllables}{' '}
                    {part.unplacedSyllables === 1 ? 'syllable is at no note' : 'syllables are at no note'},
                    and not written
                  </span>
                )}
                {part && Math.abs(part.lateMs) >= leastLatenessMs && (
                  <span className="block text-[12px] text-soft">
                    played {Math.round(Math.abs(part.lateMs))} ms {part.lateMs > 0 ? 'late' : 'early'}{' '}
                    throughout; written on the beat
                  </span>
                )}
              </li>
            )
          })}
      </ul>
    </section>
  )
}
