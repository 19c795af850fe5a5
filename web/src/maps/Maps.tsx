import { useMutation, useQueryClient } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useKept } from '../api/kept'
import { TextField } from '../shared/fields'
import { FromFile } from '../shared/FromFile'
import { Failure, Loading, problemOf, Refused } from '../shared/states'
import { ReasonedPage } from '../shell/reason'
import { say } from '../units/quantity'
import { usePreferences } from '../shell/preferences'
import { EMPTY, KEY, type MapFile, useMap, useMaps, useMeaning } from './data'
import { FindOut } from './FindOut'
import { RegisterRows } from './RegisterRows'
import { SafeOffRows } from './SafeOffRows'
import './maps.css'
import { useWords } from '../units/fields'

/** Where controllers keep their values: the workshop's register maps. */
export default function Maps() {
  return (
    <ReasonedPage
      place={
        <>
          <h2>Counting registers</h2>
          <p>
            “40001” in a manual is address 0 of the holding registers, “30001” address 0 of the input registers. Half the manuals count from
            one: write either, both are shown.
          </p>
          <p>32 bits come in four orders. If a value looks absurd, try another order before another address.</p>
          <p>Values that are written need a safe-off sequence: what is written so that the heat ends, and what is read when it has.</p>
          <div className="caution">
            <strong>Look before you write.</strong> Finding out only reads. A wrong address that is written may change a calibration, or
            start the heat.
          </div>
        </>
      }
    >
      <Library />
    </ReasonedPage>
  )
}

function Library() {
  const { data, error } = useMaps()
  const [key, setKey] = useInAddress<string>('map', '')
  const [fresh, setFresh] = useKept<MapFile>('map', EMPTY)
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const names = data.names
  return (
    <>
      <h1>Where does the controller keep its values?</h1>
      <ul className="maps" aria-label="Register maps">
        {data.maps.map((m) => (
          <li key={m.key}>
            <button className={key === m.key ? 'chosen' : ''} aria-pressed={key === m.key} onClick={() => setKey(m.key)}>
              <b>{m.title}</b>
              <span>{m.users.length ? m.users.join(', ') : m.own ? 'no rig speaks by it' : 'of the simulated controller'}</span>
            </button>
          </li>
        ))}
        <li>
          <button className={key === '' ? 'chosen' : ''} aria-pressed={key === ''} onClick={() => setKey('')}>
            <b>A new map</b>
            <span>by hand, from a file, or found out</span>
          </button>
        </li>
      </ul>
      {key === '' ? (
        <Editor key="new" names={names} own stored="" draft={fresh} setDraft={setFresh} onKey={setKey} />
      ) : (
        <Stored
          key={key}
          names={names}
          stored={key}
          own={!!data.maps.find((m) => m.key === key)?.own}
          onKey={setKey}
          onCopy={(map) => {
            setFresh({ ...map, title: `${map.title}, copy` })
            setKey('')
          }}
        />
      )}
    </>
  )
}

function Stored(props: Omit<EditorProps, 'draft' | 'setDraft'>) {
  const { data, error } = useMap(props.stored)
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  return <Edited {...props} start={data.map} />
}

function Edited({ start, ...props }: Omit<EditorProps, 'draft' | 'setDraft'> & { start: MapFile }) {
  const [draft, setDraft] = useKept<MapFile>(`map ${props.stored}`, start)
  return <Editor {...props} draft={draft} setDraft={setDraft} />
}

interface EditorProps {
  names: Schemas['NameOption'][]
  /** The key of the stored map, empty for a new one; the stand-in's own cannot be changed. */
  stored: string
  own: boolean
  draft: MapFile
  setDraft: (map: MapFile) => void
  onKey: (key: string) => void
  onCopy?: (map: MapFile) => void
}

function Editor({ names, stored, own, draft, setDraft, onKey, onCopy }: EditorProps) {
  const { label } = useWords()
  const { unit } = usePreferences()
  const queries = useQueryClient()
  const set = (part: Partial<MapFile>) => setDraft({ ...draft, ...part })
  const check = useMutation({ mutationFn: (map: unknown) => need(api.POST('/api/v1/register-maps/check', { body: { map } })) })
  const { data: shown } = useMeaning(draft)
  const save = useMutation({
    mutationFn: async () => {
      const body = { map: draft }
      const found = stored
        ? await need(api.PUT('/api/v1/register-maps/{key}', { params: { path: { key: stored } }, body }))
        : await need(api.POST('/api/v1/register-maps', { body }))
      setDraft(EMPTY)
      await queries.invalidateQueries({ queryKey: KEY })
      onKey(found.key)
    },
  })
  const remove = useMutation({
    mutationFn: async () => {
      await need(api.DELETE('/api/v1/register-maps/{key}', { params: { path: { key: stored } } }))
      await queries.invalidateQueries({ queryKey: KEY })
      onKey('')
    },
  })
  const bring = async (file: File) => {
    const map = parsed(await file.text())
    if (map) setDraft(map)
    check.mutate(map)
  }
  const error = save.error ?? check.error
  const pace = shown?.paces.find((p) => p.baud === 9600)
  return (
    <div className="mapform">
      <div className="row maphead">
        <TextField
          label="Name of the controller"
          value={draft.title}
          onChange={(title) => set({ title })}
          problem={problemOf(error, 'title')}
        />
        <TextField
          label={label('link_loss')}
          placeholder="not known"
          value={draft.link_loss ?? ''}
          onChange={(link_loss) => set({ link_loss })}
          problem={problemOf(error, 'link_loss')}
        />
      </div>
      <RegisterRows
        names={names}
        rows={draft.registers}
        places={shown?.places ?? []}
        error={error}
        onRows={(registers) => set({ registers })}
      />
      <SafeOffRows draft={draft} error={error} onChange={(safe_off) => set({ safe_off })} />
      {pace && (
        <p role="status">
          {shown?.reads === 1 ? 'One read a poll' : `${shown?.reads} reads a poll`}; on a serial bus at 9600 baud at most every{' '}
          {say(pace.interval_s, 'time', unit)}.
        </p>
      )}
      <Refused error={error ?? remove.error} />
      <div className="row">
        {onCopy && (
          <button className="button" onClick={() => onCopy(draft)}>
            A new map from it
          </button>
        )}
        {own && (
          <button className="button main" disabled={save.isPending} onClick={() => save.mutate()}>
            {stored ? 'Save the changes' : 'Save the map'}
          </button>
        )}
        <button className="button" disabled={check.isPending} onClick={() => check.mutate(draft)}>
          Check it
        </button>
        {stored && (
          <a className="button" href={`/api/v1/register-maps/${stored}/file`} download>
            As a file
          </a>
        )}
        {!stored && <FromFile label="Register map file" onFile={(file) => void bring(file)} />}
        {stored && own && (
          <button className="button" disabled={remove.isPending} onClick={() => remove.mutate()}>
            Remove
          </button>
        )}
      </div>
      {own && <FindOut onTake={(row) => set({ registers: [...draft.registers.filter((r) => r.name !== row.name), row] })} />}
    </div>
  )
}

/** A file's contents; nothing where it is no JSON object, which the server then says. */
function parsed(text: string): MapFile | null {
  try {
    const found: unknown = JSON.parse(text)
    return typeof found === 'object' && found !== null && Array.isArray((found as MapFile).registers) ? (found as MapFile) : null
  } catch {
    return null
  }
}
