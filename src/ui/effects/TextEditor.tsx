import { type Diagnostic, linter, lintGutter } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView } from '@codemirror/view'
import CodeMirror from '@uiw/react-codemirror'
import { useEffect, useMemo, useRef } from 'react'
import type { TypingProblem } from '@/core/generators/generated'
import { Button } from '../controls/Button'
import { useSession } from '../workspace/sessionContext'

/** Typed this long ago, a text is read: not at every key. */
const readAfterMs = 250
/** While somebody goes on typing, it is read at least this often. */
const readAtLeastEveryMs = 600
const mostListed = 4

const looks = EditorView.theme({
  '&': { backgroundColor: '#fffdf8', fontSize: '14px' },
  '.cm-content': { fontFamily: 'ui-monospace, monospace', caretColor: '#1f2328' },
  '.cm-gutters': { backgroundColor: '#f3eee2', color: '#565b61', border: 'none' },
  '&.cm-focused': { outline: '2px solid #2f4c8c' },
})

/** Text that means music: with line numbers, and what is wrong marked at its place and listed below. */
export function TextEditor({
  label,
  text,
  problems,
  height,
  help,
  longest,
  onChange,
}: {
  label: string
  text: string
  problems: readonly TypingProblem[]
  height: string
  help: string
  /** Letters it may have; what would make it longer is not taken. */
  longest: number
  onChange: (text: string) => void
}) {
  const view = useRef<EditorView | null>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const waiting = useRef<(() => void) | null>(null)
  const waitingSinceMs = useRef<number | null>(null)
  const session = useSession()
  const keep = useRef(onChange)
  keep.current = onChange
  // What was typed last is kept, also when the view changes at once or the page is closed.
  useEffect(() => {
    const collect = () => {
      clearTimeout(timer.current)
      waiting.current?.()
    }
    const letGo = session.holdEdit(collect)
    return () => {
      letGo()
      collect()
    }
  }, [session])
  const extensions = useMemo(
    () => [
      looks,
      lintGutter(),
      EditorView.contentAttributes.of({ 'aria-label': label }),
      EditorState.changeFilter.of((transaction) => {
        const isFitting = transaction.newDoc.length <= longest
        if (!isFitting)
          session.notify(
            `${label} takes up to ${longest.toLocaleString('en')} letters; with what was put in it would have ${transaction.newDoc.length.toLocaleString('en')}. It stays as it was.`,
            true,
          )
        return isFitting
      }),
      linter(
        ({ state }): Diagnostic[] =>
          problems
            .filter((problem) => problem.line <= state.doc.lines)
            .map((problem) => {
              const line = state.doc.line(problem.line)
              const from = Math.min(line.to, line.from + problem.column - 1)
              const word = /^\S*/.exec(line.text.slice(problem.column - 1))![0].length
              return {
                from,
                to: Math.min(line.to, from + Math.max(1, word)),
                severity: 'error',
                message: problem.text,
              }
            }),
        { delay: 50 },
      ),
    ],
    [problems, label, longest, session],
  )
  const show = ({ line, column }: TypingProblem) => {
    const editor = view.current
    if (!editor || line > editor.state.doc.lines) return
    const { from, to } = editor.state.doc.line(line)
    editor.dispatch({ selection: { anchor: Math.min(to, from + column - 1) }, scrollIntoView: true })
    editor.focus()
  }
  return (
    <div>
      <div className="overflow-hidden rounded-md border border-[#b9ad93]">
        <CodeMirror
          value={text}
          height={height}
          extensions={extensions}
          basicSetup={{ foldGutter: false, autocompletion: false, highlightActiveLine: false }}
          onCreateEditor={(created) => {
            view.current = created
          }}
          onChange={(typed) => {
            clearTimeout(timer.current)
            waiting.current = () => {
              waiting.current = null
              waitingSinceMs.current = null
              keep.current(typed)
            }
            const nowMs = performance.now()
            waitingSinceMs.current ??= nowMs
            const mostMs = waitingSinceMs.current + readAtLeastEveryMs - nowMs
            timer.current = setTimeout(() => waiting.current?.(), Math.max(0, Math.min(readAfterMs, mostMs)))
          }}
        />
      </div>
      {problems.length > 0 && (
        <ul className="mt-1 space-y-0.5 text-[12px]" aria-label={`What is wrong in ${label.toLowerCase()}`}>
          {problems.slice(0, mostListed).map((problem) => (
            <li key={`${problem.line} ${problem.column} ${problem.text}`}>
              <Button look="quiet" className="px-1 py-0 text-[12px] text-live" onClick={() => show(problem)}>
                Line {problem.line}, {problem.column}:
              </Button>{' '}
              {problem.text}
            </li>
          ))}
          {problems.length > mostListed && (
            <li className="text-soft">and {problems.length - mostListed} more</li>
          )}
        </ul>
      )}
      <p className="mt-1 text-[12px] text-soft">{help}</p>
    </div>
  )
}
