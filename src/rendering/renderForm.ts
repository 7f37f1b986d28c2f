import { writeMusicXml } from '@/core/formats/musicXml'
import { packFiles } from '@/core/formats/packFiles'
import type { ScoreHeadings } from '@/core/notation/headings'
import type { Score } from '@/core/notation/score'
import type { Project } from '@/core/project/schema'
import { loadVerovio, meiOf } from '@/engine/engraver/verovio'
import type { RenderedForm } from './formNames'
import { pagePictures, printedPdf } from './printedPages'
import { writeSound } from './writeSound'

export interface Rendered {
  readonly body: Uint8Array
  readonly mediaType: string
}

/** A piece in one of the forms: its page, or its sound; of several pages as pictures, an archive of them. */
export async function renderForm(
  form: RenderedForm,
  {
    project,
    score,
    headings,
  }: { readonly project: Project; readonly score: Score; readonly headings: ScoreHeadings },
): Promise<Rendered> {
  const text = (written: string, mediaType: string) => ({
    body: new TextEncoder().encode(written),
    mediaType: `${mediaType}; charset=utf-8`,
  })
  switch (form) {
    case 'mei':
      return text(meiOf(await loadVerovio(), writeMusicXml(score, headings)), 'application/mei+xml')
    case 'svg': {
      const pages = await pagePictures(score, headings)
      if (pages.length === 1) return text(pages[0]!, 'image/svg+xml')
      const files = pages.map((page, index) => ({
        fileName: `page ${index + 1}.svg`,
        bytes: new TextEncoder().encode(page),
      }))
      return { body: packFiles(files), mediaType: 'application/zip' }
    }
    case 'pdf':
      return {
        body: (await printedPdf(score, headings, 'A4', false)).pdf,
        mediaType: 'application/pdf',
      }
    case 'wav':
    case 'ogg': {
      let body = new Uint8Array()
      const wish = { form, bits: 16, sampleRate: 48_000 } as const
      await writeSound(project, '', null, wish, (_, bytes) => {
        body = Uint8Array.from(bytes)
      })
      return { body, mediaType: `audio/${form}` }
    }
  }
}
