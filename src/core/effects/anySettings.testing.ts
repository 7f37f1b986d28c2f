import fc from 'fast-check'
import type { Field, Fields, SettingsOf } from './settings'

const anyValue = (field: Field): fc.Arbitrary<unknown> => {
  switch (field.type) {
    case 'number':
      return fc.integer({ min: Math.ceil(field.min), max: Math.floor(field.max) })
    case 'choice':
      return fc.constantFrom(...field.options)
    case 'switch':
      return fc.boolean()
    case 'key':
      return fc.integer({ min: 0, max: 127 })
    case 'numbers':
      return fc.array(fc.integer({ min: field.min, max: field.max }), { maxLength: Math.min(4, field.most) })
  }
}

/** Any settings that some fields take, for properties. */
export function anySettings(fields: Fields): fc.Arbitrary<SettingsOf<Fields>> {
  return fc.record(
    Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, anyValue(field)])),
  ) as fc.Arbitrary<SettingsOf<Fields>>
}
