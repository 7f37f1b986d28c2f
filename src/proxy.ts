import { type NextRequest, NextResponse } from 'next/server'
import { pagePolicy } from './server/contentPolicy'

/** Gives every page its content policy, with a nonce of its own for the scripts that belong to it. */
export function proxy(request: NextRequest): NextResponse {
  const nonce = btoa(crypto.randomUUID())
  const policy = pagePolicy(nonce, process.env.NODE_ENV === 'development')
  const headers = new Headers(request.headers)
  // The framework reads the nonce from here and puts it on its own scripts.
  headers.set('Content-Security-Policy', policy)
  const response = NextResponse.next({ request: { headers } })
  response.headers.set('Content-Security-Policy', policy)
  return response
}

export const config = {
  matcher: [
    '/((?!_next/static|_next/image|instruments|worklets|icons|api|sw\\.js|icon\\.svg|favicon\\.ico|manifest\\.webmanifest).*)',
  ],
}
