import { type NextRequest, NextResponse } from 'next/server'
import { pagePolicy } from './server/contentPolicy'
import { jsonProblem } from './server/jsonProblem'

/** Gives every page its content policy, with a nonce of its own for the scripts that belong to it. */
export function proxy(request: NextRequest): Response {
  const { pathname } = request.nextUrl
  // The framework knows no such method and would fail on it.
  if (request.method === 'TRACE' || request.method === 'CONNECT')
    return jsonProblem(405, `${request.method} does nothing here`, {
      Allow: pathname.startsWith('/api') ? 'POST' : 'GET, HEAD',
    })
  if (pathname.startsWith('/api')) return NextResponse.next()
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
    '/((?!_next/static|_next/image|instruments|worklets|icons|sw\\.js|icon\\.svg|favicon\\.ico|manifest\\.webmanifest).*)',
  ],
}
