/** A number of bytes as people tell it. */
export function fileSize(bytes: number): string {
  return bytes < 1e9
    ? `${Math.max(0.1, bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
    : `${(bytes / 1e9).toFixed(0)} GB`
}
