import { basename, extname } from 'node:path'

/** The command line is wrong, not the input. */
export class UsageError extends Error {}

/** What was typed behind `--`, by name. */
export type Options = Readonly<Record<string, string | undefined>>

export function required(value: string | undefined, what: string): string {
  if (!value) throw new UsageError(`${what} is missing`)
  return value
}

/** A piece that comes from a file. */
export const identityOf = (file: string) => ({ id: 'batch', name: basename(file, extname(file)), nowMs: 0 })
