import { jsonProblem } from '@/server/jsonProblem'

/** Nothing else is answered here, and that is said as everything is said here: in JSON. */
const nothingHere = (request: Request) =>
  jsonProblem(404, `There is nothing at ${new URL(request.url).pathname}; POST /api/score is what there is`)

export {
  nothingHere as DELETE,
  nothingHere as GET,
  nothingHere as HEAD,
  nothingHere as OPTIONS,
  nothingHere as PATCH,
  nothingHere as POST,
  nothingHere as PUT,
}
