import { FileProblem } from '@/core/border/fileProblem'
import { scoreFromFile } from '@/core/formats/scoreFromFile'
import { mediaTypes, writeForm, writtenForms } from '@/core/formats/writtenForms'
import type { RenderedForm } from '@/rendering/formNames'
import { renderForm } from '@/rendering/renderForm'
import type { ScoreAnswer, ScoreTask } from './scoreTask'

/** Work of the route handler on a thread of its own: a file in any form to one in another. What is wrong with the file is the answer. */
export default async function score({ bytes, request, form, limits }: ScoreTask): Promise<ScoreAnswer> {
  try {
    const { report, ...piece } = scoreFromFile(bytes, 'Score', request, limits)
    const written = writtenForms.find((each) => each === form)
    const answer = written
      ? { body: writeForm(written, piece), mediaType: mediaTypes[written] }
      : await renderForm(form as RenderedForm, piece)
    return { isGood: true, report, ...answer }
  } catch (error) {
    if (error instanceof FileProblem) return { isGood: false, problem: error.message }
    throw error
  }
}
