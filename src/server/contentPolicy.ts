/**
 * What a page may load and run: nothing inline without its nonce, nothing from elsewhere, nobody may frame it. Workers come
 * from here only; WebAssembly is allowed for the engraving library and the instruments.
 *
 * Source: Content Security Policy Level 3, W3C. Styles may be inline: the editor and the framework set them on elements.
 *
 * @param isDevelopment the framework's own tools need more while developing
 */
export function pagePolicy(nonce: string, isDevelopment: boolean): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${isDevelopment ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "media-src 'self' blob:",
    "worker-src 'self'",
    "connect-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ')
}
