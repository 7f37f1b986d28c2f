import { existsSync, readFileSync, writeFileSync } from 'node:fs'

/** A file that cannot be read or written: the input is bad. */
export class FileAccessError extends Error {}

export function readInput(file: string): Uint8Array {
  if (!existsSync(file)) throw new FileAccessError(`There is no file ${file}`)
  try {
    return readFileSync(file)
  } catch (error) {
    throw new FileAccessError(`${file} cannot be read: ${(error as Error).message}`)
  }
}

export function readText(file: string): string {
  return new TextDecoder().decode(readInput(file))
}

export function writeOutput(file: string, content: Uint8Array | string): void {
  try {
    writeFileSync(file, content)
  } catch (error) {
    throw new FileAccessError(`${file} cannot be written: ${(error as Error).message}`)
  }
}
