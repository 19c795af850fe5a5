import { useRef, useState } from 'react'
import { useNavigate, useOutletContext } from 'react-router'
import { api, need, Refusal, type Rig, type Schemas, upload } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { SelectField, TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { ReasonOfPlace } from '../shell/reason'
import './runs.css'

type Uploaded = Schemas['UploadView']
type Mapping = Schemas['Mapping']

const LIMIT = 200 * 1024 * 1024
const ROLES = [
  ['', 'not used'],
  ['time', 'time'],
  ['reading', 'reading'],
  ['setpoint', 'set-point'],
  ['output', 'output, %'],
  ['switch', 'switch, 0/1'],
] as const

const mappingOf = (u: Uploaded): Mapping =>
  u.remembered ?? {
    delimiter: u.guess.delimiter,
    decimal: u.guess.decimal,
    header: u.guess.header,
    time_format: u.guess.time_format,
    unit: u.guess.unit,
    columns: Object.fromEntries(u.guess.columns.flatMap((c, i) => (c.role ? [[c.role, i]] : []))),
  }

/** A log file: how it was understood, corrected where the guess is wrong, and brought in as a run. */
export default function ImportLog() {
  const rig = useOutletContext<Rig>()
  const navigate = useNavigate()
  const picker = useRef<HTMLInputElement>(null)
  const stop = useRef<AbortController | null>(null)
  const [share, setShare] = useState<number | null>(null)
  const [error, setError] = useState<unknown>(null)
  const [file, setFile] = useKept<Uploaded | null>(`log ${rig.slug}`, null)
  const [mapping, setMapping] = useKept<Mapping | null>(`mapping ${rig.slug}`, null)
  const [name, setName] = useKept(`log name ${rig.slug}`, '')
  const bringIn = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/runs/import', {
        params: { path: { slug: rig.slug } },
        body: { upload: file!.id, mapping: mapping!, name },
      }),
    ),
  )

  async function take(chosen: File) {
    setError(null)
    setFile(null)
    bringIn.reset()
    if (chosen.size > LIMIT) {
      setError(
        new Refusal(
          'The file is too large.',
          [
            {
              field: 'file',
              reason: `${Math.round(chosen.size / 1048576)} MB is more than Rellux takes in one piece`,
              accepted: 'up to 200 MB; split a longer log by time',
            },
          ],
          413,
        ),
      )
      return
    }
    stop.current = new AbortController()
    setShare(0)
    try {
      const answer = await upload<Uploaded>('/api/v1/uploads', chosen, setShare, stop.current.signal)
      setFile(answer)
      setMapping(mappingOf(answer))
      setName(answer.name.replace(/\.[^.]+$/, ''))
    } catch (refused) {
      setError(refused)
    } finally {
      setShare(null)
    }
  }

  return (
    <>
      <h1>Import a log</h1>
      <p className="lead">
        Any text table with a time and a temperature: comma, semicolon or tab, decimal point or comma, °C or °F. The heater's output or
        switch state makes it good for tuning.
      </p>
      <div className="row" style={{ margin: '14px 0' }}>
        <button className="button main" onClick={() => picker.current?.click()} disabled={share !== null}>
          Choose a file
        </button>
        <input
          ref={picker}
          type="file"
          className="visually-hidden"
          aria-label="CSV file"
          tabIndex={-1}
          onChange={(e) => {
            const chosen = e.target.files?.[0]
            e.target.value = ''
            if (chosen) void take(chosen)
          }}
        />
        {share !== null && (
          <>
            <progress value={share} style={{ width: 260 }} aria-label="Uploading" />
            <button
              className="button"
              onClick={() => {
                stop.current?.abort()
                setShare(null)
              }}
            >
              Stop
            </button>
          </>
        )}
        {file && <span className="dim">{file.name}</span>}
      </div>
      <Refused error={error} />
      {file && mapping && (
        <div className="stack">
          <div className="grid2" style={{ gridTemplateColumns: 'repeat(4, minmax(0, 1fr))' }}>
            <SelectField
              label="Columns divided by"
              value={mapping.delimiter}
              options={[
                [',', 'comma'],
                [';', 'semicolon'],
                ['\t', 'tab'],
                ['|', 'bar'],
                [' ', 'space'],
              ]}
              onChange={(delimiter) => setMapping({ ...mapping, delimiter })}
              problem={problemOf(bringIn.error, 'delimiter')}
            />
            <SelectField
              label="Decimal mark"
              value={mapping.decimal}
              options={[
                ['.', 'point'],
                [',', 'comma'],
              ]}
              onChange={(decimal) => setMapping({ ...mapping, decimal })}
              problem={problemOf(bringIn.error, 'decimal')}
            />
            <SelectField
              label="Time is in"
              value={mapping.time_format}
              options={[
                ['seconds', 'seconds'],
                ['minutes', 'minutes'],
                ['iso', 'year-month-day time'],
                ['dmy', 'day.month.year time'],
                ['mdy', 'month/day/year time'],
                ['clock', 'hours:minutes:seconds'],
              ]}
              onChange={(time_format) => setMapping({ ...mapping, time_format })}
              problem={problemOf(bringIn.error, 'time_format')}
            />
            <SelectField
              label="Temperatures in"
              value={mapping.unit}
              options={[
                ['C', '°C'],
                ['F', '°F'],
              ]}
              onChange={(unit) => setMapping({ ...mapping, unit })}
              problem={problemOf(bringIn.error, 'unit')}
            />
          </div>
          <Preview file={file} mapping={mapping} onChange={setMapping} />
          <div style={{ maxWidth: 380 }}>
            <TextField label="Name of the run" value={name} onChange={setName} />
          </div>
          <Refused error={bringIn.error} />
          <div>
            <button
              className="button main"
              disabled={bringIn.isPending}
              onClick={() =>
                bringIn.mutate(undefined, {
                  onSuccess: (run) => (setFile(null), setMapping(null), setName(''), void navigate(`/rigs/${rig.slug}/runs/${run.id}`)),
                })
              }
            >
              {bringIn.isPending ? 'Checking every row…' : 'Bring it in'}
            </button>
          </div>
        </div>
      )}
      <ReasonOfPlace>
        <h2>Nothing is invented</h2>
        <p>
          Every row is checked. Text where a number belongs, or time running backwards, is refused with its row; gaps stay gaps; a repeated
          time keeps its first row.
        </p>
      </ReasonOfPlace>
    </>
  )
}

interface PreviewProps {
  file: Uploaded
  mapping: Mapping
  onChange: (mapping: Mapping) => void
}

/** The first rows, with what each column is taken for above it. */
function Preview({ file, mapping, onChange }: PreviewProps) {
  const roleOf = (i: number) => Object.entries(mapping.columns).find(([, at]) => at === i)?.[0] ?? ''
  const assign = (i: number, role: string) => {
    const columns = Object.fromEntries(Object.entries(mapping.columns).filter(([r, at]) => r !== role && at !== i))
    if (role) columns[role] = i
    onChange({ ...mapping, columns })
  }
  const rows = Math.max(...file.guess.columns.map((c) => c.values.length))
  return (
    <div className="preview">
      <table className="plain">
        <thead>
          <tr>
            {file.guess.columns.map((c, i) => (
              <th key={i}>
                {c.name}
                <SelectField
                  bare
                  label={`Column ${c.name} is`}
                  value={roleOf(i)}
                  options={ROLES as unknown as [string, string][]}
                  onChange={(role) => assign(i, role)}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: rows }, (_, r) => (
            <tr key={r}>
              {file.guess.columns.map((c, i) => (
                <td key={i}>{c.values[r]}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
