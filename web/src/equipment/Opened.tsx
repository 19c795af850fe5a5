import { useState } from 'react'
import { Link } from 'react-router'
import { api, need } from '../api/client'
import { useWorkshop } from '../api/hooks'
import { Fetched } from '../shared/Fetched'
import { DateField, SelectField, TextField } from '../shared/fields'
import { Said } from '../shared/Said'
import { problemOf, Refused } from '../shared/states'
import { day, when } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { say } from '../units/quantity'
import { here, type Piece, useEquipmentChange, useFit, usePiece } from './data'
import { PieceForm } from './PieceForm'
import { useWords } from '../units/fields'

type Doing = 'fit' | 'take out' | 'remark' | 'change' | 'scrap' | null

/** One piece: what it is and has been through, and what can be done with it. */
export function Opened({ id }: { id: number }) {
  return <Fetched query={usePiece(id)}>{(piece) => <PieceView key={id} piece={piece} />}</Fetched>
}

function PieceView({ piece }: { piece: Piece }) {
  const { unit } = usePreferences()
  const [doing, setDoing] = useState<Doing>(null)
  const { row } = piece
  const at = here(row)
  const done = () => setDoing(null)
  const press = (what: Doing, words: string) => (
    <button
      className={`button ${doing === what ? 'on' : ''}`}
      aria-pressed={doing === what}
      onClick={() => setDoing(doing === what ? null : what)}
    >
      {words}
    </button>
  )
  return (
    <section className="piece" aria-label={row.name}>
      <p>
        {row.scrapped ? (
          'Scrapped.'
        ) : at ? (
          <>
            In {at.rig ? <Link to={`/rigs/${at.rig}/parts`}>{at.rig_name}</Link> : `${at.rig_name}, which was removed,`} since{' '}
            {day(at.since)}.
          </>
        ) : row.role === 'reference' ? (
          'Others are compared with it.'
        ) : (
          'On the shelf.'
        )}{' '}
        {piece.hours > 0 && (
          <>
            {say(piece.hours, null, unit)} h in recorded runs
            {piece.hottest_c !== null && row.role === 'sensor' && `, up to ${say(piece.hottest_c, 'temperature', unit)}`}.{' '}
          </>
        )}
        {row.role === 'switch' && piece.operations > 0 && (
          <>
            Came on {Math.round(piece.operations)} times in them{piece.life ? ` of ${piece.life} it is made for` : ''}.{' '}
          </>
        )}
        {piece.follows_s !== null && <>Follows to 63 % in about {Math.round(piece.follows_s)} s in moved air. </>}
        {row.due && <>Certificate until {day(row.due)}. </>}
      </p>
      {piece.note && <p>{piece.note}</p>}
      {row.findings.map((f) => (
        <p key={f.rule} className={`said ${f.severity}`}>
          <b>
            <Said>{f.title}</Said>.
          </b>{' '}
          <Said>{f.reason}</Said> <Said>{f.fix}</Said>
        </p>
      ))}
      <div className="row">
        {!row.scrapped && row.role !== 'reference' && press('fit', at ? 'Move it to…' : 'Fit it to…')}
        {at && press('take out', 'Take it out…')}
        {press('remark', 'Remark…')}
        {press('change', 'What it is…')}
        {press('scrap', row.scrapped ? 'Take it back into use…' : 'Scrap it…')}
      </div>
      {doing === 'fit' && <FitForm piece={piece} onDone={done} />}
      {doing === 'take out' && <TakeOutForm piece={piece} onDone={done} />}
      {doing === 'remark' && <RemarkForm piece={piece} onDone={done} />}
      {doing === 'change' && <PieceForm piece={piece} onDone={done} />}
      {doing === 'scrap' && <ScrapForm piece={piece} onDone={done} />}
      <ol className="piece-record" aria-label="Record">
        {piece.record.map((line) => (
          <li key={line.at + line.text} className={line.what}>
            <time className="small dim" dateTime={line.at}>
              {when(line.at)}
            </time>
            <span>
              {line.rig ? (
                <Link to={`/rigs/${line.rig}/${line.what === 'compared' ? 'calibration' : line.what === 'proved' ? 'guarding' : 'parts'}`}>
                  <Said>{line.text}</Said>
                </Link>
              ) : (
                <Said>{line.text}</Said>
              )}
            </span>
            <span className="small dim">{line.who}</span>
          </li>
        ))}
      </ol>
    </section>
  )
}

interface Doer {
  piece: Piece
  onDone: () => void
}

/** Empty for now; else what the clock on the wall said. */
const asMoment = (local: string) => (local ? new Date(local).toISOString() : undefined)

function FitForm({ piece, onDone }: Doer) {
  const { label } = useWords()
  const { data: rigs = [] } = useWorkshop()
  const at = here(piece.row)
  const open = rigs.filter((r) => !r.archived && !r.unreadable && r.slug !== at?.rig)
  const [rig, setRig] = useState('')
  const [since, setSince] = useState('')
  const [why, setWhy] = useState('')
  const fit = useFit()
  const chosen = open.find((r) => r.slug === rig) ?? open[0]
  if (!chosen) return <p className="dim">There is no other rig.</p>
  return (
    <div className="stack doing">
      <div className="fields">
        <SelectField
          label={label('rig')}
          value={chosen.slug}
          options={open.map((r) => [r.slug, r.name] as const)}
          onChange={setRig}
          problem={problemOf(fit.error, 'rig') ?? problemOf(fit.error, 'role')}
        />
        <DateField
          time
          label="When (empty: now)"
          value={since}
          onChange={setSince}
          hint="Was it there all along? Then say since when: what was found there meanwhile belongs to it."
          problem={problemOf(fit.error, 'at')}
        />
        <TextField label="Why" value={why} onChange={setWhy} />
      </div>
      <p className="small dim">What is in that place now goes onto the shelf. The offset in the controller stays until you change it.</p>
      <Refused error={fit.error} />
      <button
        className="button main"
        disabled={fit.isPending}
        onClick={() =>
          fit.mutate({ row: piece.row, rig: chosen.slug, rigRevision: chosen.revision, at: asMoment(since), why }, { onSuccess: onDone })
        }
      >
        {at ? 'Move' : 'Fit'} {piece.row.name} to {chosen.name}
      </button>
    </div>
  )
}

function TakeOutForm({ piece, onDone }: Doer) {
  const [until, setUntil] = useState('')
  const [why, setWhy] = useState('')
  const take = useEquipmentChange((at: string | undefined) =>
    need(
      api.POST('/api/v1/equipment/{key}/take-out', {
        params: { path: { key: piece.row.id } },
        body: { revision: piece.row.revision, at: at ?? null, why },
      }),
    ),
  )
  return (
    <div className="stack doing">
      <div className="fields">
        <DateField time label="When (empty: now)" value={until} onChange={setUntil} problem={problemOf(take.error, 'at')} />
        <TextField label="Why" value={why} onChange={setWhy} />
      </div>
      <Refused error={take.error} />
      <button className="button main" disabled={take.isPending} onClick={() => take.mutate(asMoment(until), { onSuccess: onDone })}>
        Take {piece.row.name} out
      </button>
    </div>
  )
}

function RemarkForm({ piece, onDone }: Doer) {
  const [text, setText] = useState('')
  const remark = useEquipmentChange((said: string) =>
    need(
      api.POST('/api/v1/equipment/{key}/remarks', {
        params: { path: { key: piece.row.id } },
        body: { revision: piece.row.revision, text: said },
      }),
    ),
  )
  return (
    <div className="stack doing">
      <TextField
        label="Remark: done or seen"
        placeholder="dropped; new plug; went over 700 °C"
        value={text}
        onChange={setText}
        problem={problemOf(remark.error, 'text')}
      />
      <Refused error={remark.error} />
      <button className="button main" disabled={remark.isPending} onClick={() => remark.mutate(text, { onSuccess: onDone })}>
        Note it
      </button>
    </div>
  )
}

function ScrapForm({ piece, onDone }: Doer) {
  const [why, setWhy] = useState('')
  const scrapped = !piece.row.scrapped
  const scrap = useEquipmentChange((reason: string) =>
    need(
      api.POST('/api/v1/equipment/{key}/scrap', {
        params: { path: { key: piece.row.id } },
        body: { revision: piece.row.revision, scrapped, why: reason },
      }),
    ),
  )
  return (
    <div className="stack doing">
      <TextField label="Why" value={why} onChange={setWhy} />
      <Refused error={scrap.error} />
      <button className="button main" disabled={scrap.isPending} onClick={() => scrap.mutate(why, { onSuccess: onDone })}>
        {scrapped ? `${piece.row.name} is scrapped; its record stays` : `${piece.row.name} is in use again`}
      </button>
    </div>
  )
}
