import type { Problem, Quantity } from '../api/client'
import { DateField, NumberField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'

interface Point {
  at_c: number | null
  number_c: number | null
  expanded_c: number | null
}
export interface Certificate {
  dated: string
  says: 'correction' | 'error'
  coverage: number | null
  points: Point[]
}
const POINT: Point = { at_c: null, number_c: null, expanded_c: null }
const NEW: Certificate = { dated: '', says: 'correction', coverage: 2, points: [POINT] }
const ASKED: [keyof Point, Quantity][] = [
  ['at_c', 'temperature'],
  ['number_c', 'temperature_difference'],
  ['expanded_c', 'temperature_difference'],
]

interface Props {
  certificates: Certificate[]
  set: (certificates: Certificate[]) => void
  problem: (field: string) => Problem | undefined
}

/** A reference's certificates: what they say at their points. Older ones show how it drifts. */
export function CertificateFields({ certificates, set, problem }: Props) {
  const change = (i: number, part: Partial<Certificate>) => set(certificates.map((c, k) => (k === i ? { ...c, ...part } : c)))
  return (
    <section className="stack" aria-label="Certificates">
      {certificates.map((c, i) => (
        <OneCertificate
          key={i}
          certificate={c}
          path={`certificates[${i}]`}
          problem={problem}
          change={(part) => change(i, part)}
          remove={() => set(certificates.filter((_, k) => k !== i))}
        />
      ))}
      <div>
        <button type="button" className="button quiet" onClick={() => set([...certificates, NEW])}>
          {certificates.length ? 'Another certificate' : 'Enter its certificate'}
        </button>
      </div>
    </section>
  )
}

interface OneProps {
  certificate: Certificate
  path: string
  problem: (field: string) => Problem | undefined
  change: (part: Partial<Certificate>) => void
  remove: () => void
}

function OneCertificate({ certificate: c, path, problem, change, remove }: OneProps) {
  const { label, choices } = useWords()
  const point = (k: number, part: Partial<Point>) => change({ points: c.points.map((p, n) => (n === k ? { ...p, ...part } : p)) })
  return (
    <fieldset className="certificate">
      <legend>{c.dated || 'New certificate'}</legend>
      <div className="fields">
        <DateField label={label('dated')} value={c.dated} onChange={(dated) => change({ dated })} problem={problem(`${path}.dated`)} />
        <NumberField
          label={label('coverage')}
          value={c.coverage}
          onChange={(coverage) => change({ coverage })}
          problem={problem(`${path}.coverage`)}
        />
      </div>
      <Segments
        label={label('certificate_says')}
        value={c.says}
        options={choices('certificate_says') as [Certificate['says'], string][]}
        onChange={(says) => change({ says })}
      />
      {c.points.map((p, k) => (
        <div className="fields" key={k}>
          {ASKED.map(([name, kind]) => (
            <NumberField
              key={name}
              label={`${label(name)} (${k + 1})`}
              kind={kind}
              value={p[name]}
              onChange={(value) => point(k, { [name]: value })}
              problem={problem(`${path}.points[${k}].${name}`)}
            />
          ))}
        </div>
      ))}
      <div className="row">
        <button type="button" className="button quiet" onClick={() => change({ points: [...c.points, POINT] })}>
          One more point
        </button>
        {c.points.length > 1 && (
          <button type="button" className="button quiet" onClick={() => change({ points: c.points.slice(0, -1) })}>
            Without the last point
          </button>
        )}
        <button type="button" className="button quiet" onClick={remove}>
          Remove this certificate
        </button>
      </div>
    </fieldset>
  )
}
