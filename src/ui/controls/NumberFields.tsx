import { NumberField } from './NumberField'

/** A number among the settings of one thing. */
export interface NumberSetting<Name extends string> {
  readonly name: Name
  readonly label: string
  readonly min: number
  readonly max: number
  readonly unit?: string
  readonly className?: string
}

/** The numbers of one thing, a field each. */
export function NumberFields<Name extends string>({
  settings,
  values,
  onChange,
}: {
  settings: readonly NumberSetting<Name>[]
  values: Readonly<Record<Name, number>>
  onChange: (name: Name, value: number, setting: NumberSetting<Name>) => void
}) {
  return settings.map((setting) => (
    <NumberField
      key={setting.name}
      label={setting.label}
      unit={setting.unit}
      className={setting.className ?? 'w-11'}
      value={values[setting.name]}
      min={setting.min}
      max={setting.max}
      onChange={(value) => onChange(setting.name, value, setting)}
    />
  ))
}
