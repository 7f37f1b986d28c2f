import { readFileSync, writeFileSync } from 'node:fs'
import { effectKinds, effectOf } from './catalogue'
import type { Field } from './settings'

const file = 'docs/batch.md'
const [begin, end] = ['<!-- effects -->\n', '<!-- /effects -->']

function inWords(field: Field): string {
  switch (field.type) {
    case 'number':
      return `${field.start} (${field.min} to ${field.max}${field.unit && ` ${field.unit}`})`
    case 'choice':
      return field.options.length > 8 ? `${field.start}` : `${field.start} (${field.options.join(', ')})`
    case 'switch':
      return String(field.start)
    case 'key':
      return `${field.start} (0 to 127)`
    case 'numbers':
      return `[${field.start.join(', ')}] (${field.min} to ${field.max}, at most ${field.most})`
  }
}

/** Every effect with its settings, as the page of the batch commands shows them. */
function table(): string {
  const rows = effectKinds.map((kind) => {
    const { title, fields } = effectOf(kind)
    const settings = Object.entries(fields).map(([name, field]) => `\`${name}\` ${inWords(field)}`)
    return `| \`${kind}\` | ${title} | ${settings.join('; ')} |`
  })
  return ['| kind | name | settings |', '|---|---|---|', ...rows, ''].join('\n')
}

test('the page of the batch commands tells of every effect and setting (UPDATE_DOCS=1 writes it)', () => {
  const text = readFileSync(file, 'utf8')
  const from = text.indexOf(begin) + begin.length
  const wanted = `${text.slice(0, from)}${table()}${text.slice(text.indexOf(end))}`
  if (process.env.UPDATE_DOCS) writeFileSync(file, wanted)
  expect(readFileSync(file, 'utf8')).toBe(wanted)
})
