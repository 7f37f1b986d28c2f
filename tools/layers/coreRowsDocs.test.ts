import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import coreRows from './coreRows.cjs'

const file = 'docs/architecture.md'
const [begin, end] = ['<!-- rows -->\n', '<!-- /rows -->']

test('the page of the architecture tells the rows of the core as the rules have them (UPDATE_DOCS=1 writes it)', () => {
  const rows = coreRows.map(
    (row, index) =>
      `| ${index + 1} | ${Object.entries(row)
        .map(([folder, words]) => `\`${folder}\` (${words})`)
        .join(' · ')} |`,
  )
  const table = ['| row | folders |', '|---|---|', ...rows, ''].join('\n')
  const text = readFileSync(file, 'utf8')
  const from = text.indexOf(begin) + begin.length
  const wanted = `${text.slice(0, from)}${table}${text.slice(text.indexOf(end))}`
  if (process.env.UPDATE_DOCS) writeFileSync(file, wanted)
  expect(readFileSync(file, 'utf8')).toBe(wanted)
})

test('every folder of the core has a row', () => {
  const folders = readdirSync('src/core', { withFileTypes: true }).filter((entry) => entry.isDirectory())
  expect(folders.map(({ name }) => name).sort()).toEqual(coreRows.flatMap((row) => Object.keys(row)).sort())
})
