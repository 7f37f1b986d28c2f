import { z } from 'zod'

// Pages allow no code to be made at run time, which the library would otherwise try for speed at its first check. Every
// border check is built with the library as it is handed out here, so that none is made before this line has run.
z.config({ jitless: true })

export { z }
