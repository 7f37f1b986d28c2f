import { otherKeys, strokesByKey } from '../score/penStrokes'
import { keys, whatIf, words } from './helpContent'

const penKeys: readonly (readonly [string, string])[] = [
  ...[...strokesByKey].map(([key, { name }]) => [key, name] as const),
  ...otherKeys,
]

/** Keys, words, and what to do when something is not as it should be. */
export function HelpSheet() {
  return (
    <div className="grid gap-x-10 gap-y-6 md:grid-cols-2">
      <section aria-label="What if" className="md:col-span-2">
        <h2 className="mb-2 font-serif text-xl font-semibold">What if</h2>
        <dl className="grid gap-x-10 gap-y-3 md:grid-cols-2">
          {whatIf.map(([problem, remedy]) => (
            <div key={problem}>
              <dt className="font-semibold">{problem}</dt>
              <dd className="text-soft">{remedy}</dd>
            </div>
          ))}
        </dl>
      </section>
      <section aria-label="Keys">
        <h2 className="mb-2 font-serif text-xl font-semibold">Keys</h2>
        <Pairs list={keys} />
      </section>
      <section aria-label="Writing on the page">
        <h2 className="mb-2 font-serif text-xl font-semibold">Writing on the page</h2>
        <Pairs list={penKeys} />
      </section>
      <section aria-label="Words">
        <h2 className="mb-2 font-serif text-xl font-semibold">Words</h2>
        <Pairs list={words} />
      </section>
    </div>
  )
}

function Pairs({ list }: { list: readonly (readonly [string, string])[] }) {
  return (
    <dl className="grid grid-cols-[minmax(110px,auto)_1fr] gap-x-4 gap-y-1.5">
      {list.map(([name, text]) => (
        <div key={name} className="contents">
          <dt className="font-semibold">{name}</dt>
          <dd className="text-soft">{text}</dd>
        </div>
      ))}
    </dl>
  )
}
