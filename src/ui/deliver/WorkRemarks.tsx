/** What is to be said of files that were made, or could not be. */
export function WorkRemarks({
  problem,
  failed,
  outOfDate,
}: {
  problem: string | null
  /** What was not done: "The pages were not laid out". */
  failed: string
  /** What is older than the piece; null where nothing is: "these pages were laid out". */
  outOfDate: string | null
}) {
  return (
    <>
      {problem && (
        <p role="alert" className="mt-3 border-l-4 border-live bg-sheet px-4 py-2">
          {failed}: {problem.replace(/\.$/, '')}. The piece is unharmed.
        </p>
      )}
      {outOfDate && (
        <p className="mt-3 border-l-4 border-weld bg-sheet px-4 py-2">
          The piece has changed since {outOfDate}.
        </p>
      )}
    </>
  )
}
