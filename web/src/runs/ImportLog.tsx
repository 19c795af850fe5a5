import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { useNavigate, useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { SelectField, TextField } from '../shared/fields'
import { Refused } from '../shared/states'
import { ReasonOfPlace } from '../shell/reason'
import { Preview, Writing } from './LogMapping'
import { nameOf, useLogFile } from './useLogFile'
import './runs.css'

type Brought = Schemas['ImportInputRequest']

/** Up to this share the rows are being checked. */
const CHECKED = 0.6

/** A log file: how it was understood, corrected where the guess is wrong, and brought in as a run. */
export default function ImportLog() {
  const rig = useOutletContext<Rig>()
  const navigate = useNavigate()
  const picker = useRef<HTMLInputElement>(null)
  const { file, mapping, setMapping, name, setName, share, error, take, takeSheet, reread, clear } = useLogFile(rig)
  const [waiting, setWaiting] = useState<File[]>([])
  const [taken, setTaken] = useState<string[]>([])
  const bringIn = useChange(rig.slug, (what: Brought) =>
    need(api.POST('/api/v1/rigs/{slug}/runs/import', { params: { path: { slug: rig.slug } }, body: what })),
  )

  /** Several at once: the first is looked at by its user; what is written like a file before it is read as that one was. */
  function takeAll(chosen: File[]) {
    setTaken([])
    setWaiting(chosen.slice(1))
    bringIn.reset()
    if (chosen[0]) void take(chosen[0])
  }

  async function bring(what: Brought, others: File[]) {
    const run = await bringIn.mutateAsync(what)
    setTaken((before) => [...before, run.name])
    clear()
    const [next, ...rest] = others
    setWaiting(rest)
    if (!next) {
      void navigate(`/rigs/${rig.slug}/runs/${run.id}`)
      return
    }
    const answer = await take(next)
    if (answer?.remembered) await bring({ upload: answer.id, mapping: answer.remembered, name: nameOf(answer.name) }, rest)
  }

  useEffect(() => {
    const over = (e: DragEvent) => e.preventDefault()
    const dropped = (e: DragEvent) => {
      e.preventDefault()
      const chosen = [...(e.dataTransfer?.files ?? [])]
      if (chosen.length && share === null && !bringIn.isPending) takeAll(chosen)
    }
    window.addEventListener('dragover', over)
    window.addEventListener('drop', dropped)
    return () => {
      window.removeEventListener('dragover', over)
      window.removeEventListener('drop', dropped)
    }
  })

  return (
    <>
      <h1>Import a log</h1>
      <p className="lead">
        Any table with a time and a temperature, °C or °F: text divided by comma, semicolon or tab, a spreadsheet (.xlsx), JSON lines or
        Parquet. The heater's output or switch state makes it good for tuning.
      </p>
      <div className="row" style={{ margin: '14px 0' }}>
        <button className="button main" onClick={() => picker.current?.click()} disabled={share !== null}>
          Choose a file
        </button>
        <span className="dim">or drop one or several on this page</span>
        <input
          ref={picker}
          type="file"
          className="visually-hidden"
          aria-label="Log file"
          multiple
          tabIndex={-1}
          onChange={(e) => {
            const chosen = [...(e.target.files ?? [])]
            e.target.value = ''
            if (chosen.length) takeAll(chosen)
          }}
        />
        {share !== null && (
          <>
            <progress value={share} style={{ width: 260 }} aria-label="Uploading" />
            <span className="dim">{share < 1 ? `${Math.floor(share * 100)} % is here` : 'all of it is here, and being read'}</span>
            <button className="button" onClick={clear}>
              Stop
            </button>
          </>
        )}
        {file && (
          <span className="dim">
            {file.name}
            {file.was && `: ${file.was}`}
          </span>
        )}
      </div>
      {file && file.sheets.length > 1 && (
        <div style={{ maxWidth: 380, marginBottom: 14 }}>
          <SelectField
            label="Sheet"
            value={file.sheet}
            options={(takeSheet ? file.sheets : [file.sheet]).map((s) => [s, s] as const)}
            hint={takeSheet ? 'the largest is taken first' : 'choose the file again for another of its sheets'}
            onChange={(sheet) => takeSheet?.(sheet)}
          />
        </div>
      )}
      {(taken.length > 0 || waiting.length > 0) && (
        <p role="status">
          {taken.length > 0 && `Brought in: ${taken.join(', ')}. `}
          {waiting.length > 0 && `Waiting: ${waiting.map((w) => w.name).join(', ')}.`}
        </p>
      )}
      <Refused error={error} />
      {file && mapping && (
        <div className="stack">
          <Writing guess={file.guess} table={!!file.was} mapping={mapping} error={bringIn.error} onReread={reread} onChange={setMapping} />
          <Preview guess={file.guess} mapping={mapping} onChange={setMapping} />
          <div style={{ maxWidth: 380 }}>
            <TextField label="Name of the run" value={name} onChange={setName} />
          </div>
          <Refused error={bringIn.error} />
          {bringIn.isPending && file.id !== null ? (
            <Importing upload={file.id} />
          ) : (
            <div>
              <button
                className="button main"
                disabled={file.id === null}
                onClick={() => file.id !== null && void bring({ upload: file.id, mapping, name }, waiting).catch(() => undefined)}
              >
                {waiting.length ? `Bring it in, and ${waiting.length} more` : 'Bring it in'}
              </button>
              {file.id === null && <span className="dim"> once all of the file is here; correct it meanwhile</span>}
            </div>
          )}
        </div>
      )}
      <ReasonOfPlace>
        <h2>Nothing is invented</h2>
        <p>
          Every row is checked. A few cells or lines that cannot be read are left out and listed with their rows; many of them, or time
          running backwards, are refused. Gaps stay gaps; a repeated time keeps its first row.
        </p>
      </ReasonOfPlace>
    </>
  )
}

/** How far the import is, and a way to stop it: nothing is kept then. */
function Importing({ upload }: { upload: number }) {
  const params = { path: { number: upload } }
  const done = useQuery({
    queryKey: ['import', upload],
    queryFn: () => need(api.GET('/api/v1/uploads/{number}/import', { params })),
    refetchInterval: 300,
    retry: false,
  })
  const share = done.data?.share ?? 0
  return (
    <div className="row">
      <span>{share < CHECKED ? 'Checking every row…' : 'Storing…'}</span>
      <progress value={share} style={{ width: 260 }} aria-label="Importing" />
      <button className="button" onClick={() => void api.DELETE('/api/v1/uploads/{number}/import', { params })}>
        Stop
      </button>
    </div>
  )
}
