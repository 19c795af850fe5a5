import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { SelectField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { localise } from '../units/quantity'
import { colourOf } from '../wiring/colours'

const NAMES = ['black', 'blue', 'brown', 'green', 'grey', 'orange', 'pink', 'red', 'violet', 'white', 'yellow']
const OPTIONS = NAMES.map((c) => [c, `${c} (${colourOf(c).code})`] as const)

/** Two colours in, the standards that fit out, each drawn with its polarity; and the test that settles the rest. */
export function WhichIsPositive() {
  const { unit } = usePreferences()
  const [first, setFirst] = useState('red')
  const [second, setSecond] = useState('white')
  const [sheath, setSheath] = useState('')
  const body = { first, second, sheath }
  const { data, error } = useQuery({
    queryKey: ['colours', body],
    queryFn: () => need(api.POST('/api/v1/sensing/colours', { body })),
    retry: false,
  })
  return (
    <section style={{ marginTop: 14 }}>
      <div className="cablepick">
        <SelectField label="One wire is" value={first} options={OPTIONS} onChange={setFirst} problem={problemOf(error, 'first')} />
        <SelectField label="The other is" value={second} options={OPTIONS} onChange={setSecond} problem={problemOf(error, 'second')} />
        <SelectField label="Sheath (if any)" value={sheath} options={[['', 'not seen'], ...OPTIONS]} onChange={setSheath} />
      </div>
      <Refused error={error} />
      {data && !error && (
        <>
          <p style={{ fontSize: 22, fontWeight: 650, marginTop: 16 }} role="status">
            {data.fits.length === 0
              ? 'No standard here uses these two colours.'
              : data.certain_positive
                ? `${data.certain_positive[0]!.toUpperCase()}${data.certain_positive.slice(1)} is positive in every standard that fits.`
                : 'The standards disagree: test before you connect.'}
          </p>
          <div className="fits">
            {data.fits.map((f) => (
              <Cable key={f.standard + f.type} fit={f} />
            ))}
          </div>
          {data.tests.map((t) => (
            <div key={t.name} style={{ marginBottom: 12 }}>
              <h2>{t.name}</h2>
              <p>{localise(t.how, unit)}</p>
              <ul style={{ margin: '4px 0', paddingLeft: 20 }}>
                {t.outcomes.map((o) => (
                  <li key={o}>{localise(o, unit)}</li>
                ))}
              </ul>
            </div>
          ))}
        </>
      )}
    </section>
  )
}

/** A cable end: sheath, two legs with letter codes, plus and minus. */
function Cable({ fit }: { fit: Schemas['Fit'] }) {
  const legs = [
    { y: 26, name: fit.positive, sign: '+' },
    { y: 58, name: fit.negative, sign: '−' },
  ]
  const sheath = colourOf(fit.sheath)
  return (
    <figure style={{ margin: 0 }} className={fit.sheath_agrees === false ? 'unlikely' : ''}>
      <figcaption>
        <b>Type {fit.type}</b> <span className="dim">{fit.standard}</span>
        {fit.sheath_agrees === false && <span className="dim">, but its sheath would be {fit.sheath}</span>}
      </figcaption>
      <svg viewBox="0 0 300 84" role="img" aria-label={`${fit.positive} plus, ${fit.negative} minus`}>
        <rect x={0} y={12} width={80} height={60} rx={6} fill={sheath.css} stroke="var(--ink)" strokeWidth={1.5} />
        {legs.map((l) => (
          <g key={l.sign}>
            <path d={`M80 ${l.y} H210`} stroke="var(--ink)" strokeWidth={15} />
            <path d={`M80 ${l.y} H210`} stroke={colourOf(l.name).css} strokeWidth={12} />
            <path d={`M210 ${l.y} H226`} stroke="var(--dim)" strokeWidth={4} />
            <text className="code" x={236} y={l.y + 5}>
              {colourOf(l.name).code}
            </text>
            <text x={272} y={l.y + 8} style={{ font: '700 26px var(--figures)' }}>
              {l.sign}
            </text>
          </g>
        ))}
      </svg>
    </figure>
  )
}
