import { dirname } from 'node:path'
import { fileURLToPath } from 'node:url'

/** @type {import('next').NextConfig} */
export default {
  reactStrictMode: true,
  poweredByHeader: false,
  // An address with a stroke at its end is the same address: whoever posts a file there is not sent elsewhere.
  skipTrailingSlashRedirect: true,
  // Types are checked on their own, in more ways than here (scripts/types.mjs).
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
  serverExternalPackages: ['piscina'],
  turbopack: { root: dirname(fileURLToPath(import.meta.url)) },
  async headers() {
    return [
      {
        source: '/(.*)',
        headers: [
          { key: 'X-Content-Type-Options', value: 'nosniff' },
          { key: 'Referrer-Policy', value: 'no-referrer' },
          { key: 'Permissions-Policy', value: 'midi=(self), microphone=(self)' },
        ],
      },
      // Workers and worklets have the policy that their own file comes with.
      ...['/_next/static/:file*', '/worklets/:file*', '/sw.js'].map((source) => ({
        source,
        headers: [
          {
            key: 'Content-Security-Policy',
            value: "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; object-src 'none'",
          },
        ],
      })),
      { source: '/sw.js', headers: [{ key: 'Cache-Control', value: 'no-cache' }] },
      {
        source: '/instruments/:file*',
        headers: [{ key: 'Cache-Control', value: 'public, max-age=31536000, immutable' }],
      },
    ]
  },
}
