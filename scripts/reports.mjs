/** `npm run reports`: how exact the readings are, all reports one after the other, written to docs/reports.md. */
import { execFileSync, spawnSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { installForTests, installPackages } from './install.mjs'

installPackages()
installForTests()

/** What each prints, on what, and what must be known to read it. */
const reports = [
  {
    name: 'reading',
    title: 'Written rhythm',
    words: `Share of notes with exactly the written onset and value: 12 invented pieces of 32 bars in six styles, with and without chords, played by a
player with uniform slips, a slow wander and spread chords; by touch, by tempo, and by how late the player is throughout. Nothing was
fitted on these pieces. An eighth and an eighth rest played evenly is a quarter played short: in pieces full of rests that are also played
with mixed touch nothing tells them apart.`,
  },
  {
    name: 'corpus',
    title: 'Published scores',
    words: `Excerpts by Bach, Haydn, Mozart, Chopin, C. and R. Schumann, Corelli and Foster, in the public domain (\`knownScores.testing.ts\`), played to a
click at 100 by a player with errors of 12 ms; MV2H is McLeod's and Steedman's measure (2018), positions compared exactly, of harmony the key
only. No weight was fitted on these pieces; two settings of the finding of bars (how much beats are trusted together, and the cost of a piece
that does not end on its tonic) were chosen with them in view.`,
  },
  {
    name: 'bars',
    title: 'Beats and bars of what was played without a click',
    words: `F1 within 70 ms (the measure of S. Dixon, 2001), of a player whose tempo swells by 5 to 8 % and drifts, 66 to 140 beats a minute. The published
scores are the ones above: two settings were chosen with them in view, so that other pieces may be found less well. What is wrong in bar
lines is mostly half a bar, and two to the bar taken for four.`,
  },
  {
    name: 'voices',
    title: 'Lines and hands told apart',
    words: `Music by Bach, Haydn, Mozart, C. Schumann, Joplin and Chopin (\`knownMusic.testing.ts\`), merged to one player, as written and as played with
errors of 15 ms. These pieces were among those that the weights were fitted on. Voices that cross in one range, as in madrigals, are told
apart much worse; there is no such piece among them.`,
  },
  {
    name: 'listening',
    title: 'Listening',
    words: `Right key and onset within 50 ms, on lines and chords by chance, played by a sampler and a bank that nothing was fitted to (fluidsynth,
timgm6mb-soundfont), dry and in a noisy room; and by the models of the stand-ins. While it is played, and read afterwards.`,
  },
]

const git = (...words) => execFileSync('git', words, { encoding: 'utf8' }).trim()
let page = `# How exact the readings are

Written by \`npm run reports\` on ${new Date().toISOString().slice(0, 16).replace('T', ' ')} UTC, at commit ${git('rev-parse', '--short', 'HEAD')}; do not edit. Each part is what \`npm run report:NAME\` prints.
`
for (const { name, title, words } of reports) {
  process.stderr.write(`${name}…\n`)
  const { status, stdout, stderr } = spawnSync('npm', ['run', '--silent', `report:${name}`], {
    encoding: 'utf8',
    maxBuffer: 1e8,
  })
  if (status !== 0) {
    process.stderr.write(`${stdout}${stderr}\nreport:${name} failed\n`)
    process.exit(1)
  }
  page += `
## ${title}

\`npm run report:${name}\`. ${words}

\`\`\`
${stdout.trimEnd()}
\`\`\`
`
}
writeFileSync('docs/reports.md', page)
