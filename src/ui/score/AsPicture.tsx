import { useState } from 'react'
import type { NoteId } from '@/core/event/note'
import type { Project } from '@/core/project/schema'
import { safeFileName } from '@/core/separation/splitFile'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { type PictureFormat, savePicture } from '../controls/savePicture'
import { useSession } from '../workspace/sessionContext'

/** The bars of what is chosen as a picture, for a message or a text. */
export function AsPicture({ project, noteIds }: { project: Project; noteIds: ReadonlySet<NoteId> }) {
  const session = useSession()
  const [isOfAllParts, setOfAllParts] = useState(false)
  const save = async (format: PictureFormat) => {
    try {
      const picture = await session.engraving.picture([...noteIds], isOfAllParts)
      if (!picture) return
      const bars =
        picture.from === picture.to ? `bar ${picture.from}` : `bars ${picture.from} to ${picture.to}`
      await savePicture(picture.svg, safeFileName(`${project.name}, ${bars}`), format)
    } catch (error) {
      session.notify(`The picture was not made: ${error instanceof Error ? error.message : error}`, true)
    }
  }
  return (
    <fieldset className="mt-4 flex flex-wrap items-center gap-2" aria-label="As a picture">
      <Choice
        label="These bars"
        value={isOfAllParts ? 'all' : 'own'}
        options={[
          { value: 'own', text: 'of their parts' },
          { value: 'all', text: 'of all parts' },
        ]}
        onChange={(value) => setOfAllParts(value === 'all')}
      />
      <Button className="px-2 py-0.5 text-[12px]" onClick={() => void save('svg')}>
        SVG
      </Button>
      <Button className="px-2 py-0.5 text-[12px]" onClick={() => void save('png')}>
        PNG
      </Button>
    </fieldset>
  )
}
