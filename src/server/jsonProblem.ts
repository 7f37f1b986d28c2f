/** What every answer of the request but a good one looks like. */
export function jsonProblem(
  status: number,
  error: string,
  headers: Readonly<Record<string, string>> = {},
): Response {
  return Response.json({ error }, { status, headers })
}
