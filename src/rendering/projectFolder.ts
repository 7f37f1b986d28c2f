import { join } from 'node:path'

let folder = process.cwd()

/** The built command is started from anywhere: it says where the project is. The server and the tests run in its folder. */
export function setProjectFolder(path: string): void {
  folder = path
}

/** A file of the project or of its packages. */
export function inProject(...path: readonly string[]): string {
  return join(folder, ...path)
}
