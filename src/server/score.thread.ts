import { FileProblem } from '@/core/border/fileProblem'
import { scoreFromFile } from '@/core/formats/scoreFromFile'
import { writeForm } from '@/core/formats/writtenForms'
import type { ScoreAnswer, ScoreTask } from './scoreTask'

/** Work of the route handler on a thread of its own: a file in any form to one in another. What is wrong with the file is the answer. */
export default function score({ bytes, request, form, limits }: ScoreTask): ScoreAnswer {
  try {
    const { project, score: written, headings, report } = scoreFromFile(bytes, 'Score', request, limits)
    return { isGood: true, body: writeForm(form, { project, score: written, headings }), report }
  } catch (error) {
    if (error instanceof FileProblem) return { isGood: false, problem: error.message }
    throw error
  }
}
