// biome-ignore-all lint/suspicious/noControlCharactersInRegex: exactly the characters that XML 1.0 forbids
const entities: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;',
}

/** Text made safe for XML content and attributes: markup becomes text, characters XML 1.0 forbids are left out. */
export function xmlText(text: string): string {
  return text
    .replace(
      /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g,
      '',
    )
    .replace(/[&<>"']/g, (letter) => entities[letter]!)
}
