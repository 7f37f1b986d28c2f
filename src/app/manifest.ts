import type { MetadataRoute } from 'next'

/** What a browser needs to keep the program on a device (Web Application Manifest, W3C). */
export default function manifest(): MetadataRoute.Manifest {
  return {
    name: 'Unbroken Voice',
    short_name: 'Unbroken Voice',
    description: 'Several players at once, recorded into tracks and onto the page.',
    start_url: '/',
    display: 'standalone',
    background_color: '#fbf8f1',
    theme_color: '#fbf8f1',
    icons: [
      { src: '/icon.svg', sizes: 'any', type: 'image/svg+xml' },
      { src: '/icons/icon-192.png', sizes: '192x192', type: 'image/png' },
      { src: '/icons/icon-512.png', sizes: '512x512', type: 'image/png' },
      { src: '/icons/icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
    ],
  }
}
