import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useDraft } from '../api/kept'
import { useLatest } from '../api/useLatest'
import { Conflict } from '../shared/Conflict'
import { Form } from '../questions/Form'
import { Fetched } from '../shared/Fetched'
import { SelectField, TextField } from '../shared/fields'
import { Resumed } from '../shared/Resumed'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { say } from '../units/quantity'
import type { Quantity } from '../api/client'
import type { Values } from '../setup/ParameterTable'
import { useWords } from '../units/fields'

type Block = Schemas['TextBlock']
type View = Schemas['TextView']

interface Props {
  rig: Rig
  wish: Values
  parameters: Schemas['ParameterView'][]
  /** What was read off the text goes into the sheet that is being typed. */
  onFound: (values: Values) => void
}

/** A controller set in its source text: the block of constants filled from the sheet, and read back. */
export function TextController(props: Props) {
  const { rig } = props
  const query = useQuery({
    queryKey: ['of', rig.slug, 'text', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/controller/text', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  return <Fetched query={query}>{(data) => <Text {...props} data={data} />}</Fetched>
}

/** The parts of a block, as they are called beside a conflict. */
const PARTS: Record<string, string> = {
  template: 'The block',
  unit: 'Its degrees',
  language: 'How its PID counts',
  words: 'Its words',
  tune: 'Sent to make it tune',
  tuned: 'The line it prints',
}
function Text({ rig, wish, parameters, onFound, data }: Props & { data: View }) {
  const { label } = useWords()
  const { unit } = usePreferences()
  const params = { path: { slug: rig.slug } }
  const draft = useDraft<Block>(rig.slug, 'text', data.block, data.revision)
  const { values: block, set } = draft
  const values = Object.fromEntries(Object.entries(wish).filter(([, v]) => v !== null))
  const tried = useLatest({ block, values }, (body) => need(api.POST('/api/v1/rigs/{slug}/controller/text/try', { params, body })))
  const keep = useChange(rig.slug, (kept: Block) =>
    need(api.PUT('/api/v1/rigs/{slug}/controller/text', { params, body: { revision: draft.revision, block: kept } })),
  )
  const [pasted, setPasted] = useState('')
  const [tuned, setTuned] = useState(false)
  const back = useMutation({
    mutationFn: () => need(api.POST('/api/v1/rigs/{slug}/controller/text/read', { params, body: { text: pasted, tuned } })),
  })
  const found = tried.error ? undefined : tried.data
  const named = parameters.filter((p) => p.choices.length && block.template.includes(`{${p.name}`))
  const changed = !data.kept || draft.touched
  const read = back.data
  return (
    <div className="stack">
      <Resumed draft={draft} />
      <Conflict draft={draft} label={(f) => PARTS[f] ?? f} says={(_, v) => (typeof v === 'string' ? v : JSON.stringify(v))} />
      <p className="lead">For a controller set in its source: your own block of constants, filled with what this rig needs.</p>
      <div className="grid2">
        <div className="field">
          <label htmlFor="block">The block, with places in braces</label>
          <textarea
            id="block"
            className="source"
            rows={10}
            spellCheck={false}
            value={block.template}
            onChange={(e) => set({ template: e.target.value })}
          />
          <span className="small dim">
            <code>{'{period_s*1000:.0f}'}</code>: a factor, and how many decimals. Gains are <code>{'{kp}'}</code> <code>{'{ki}'}</code>{' '}
            <code>{'{kd}'}</code>.
          </span>
        </div>
        <div className="field">
          <label htmlFor="block-filled">To copy into the source{tried.behind ? ' (being written)' : ''}</label>
          <textarea id="block-filled" className="source" rows={10} readOnly value={found?.filled ?? ''} />
          {found?.filled && (
            <div className="row">
              <button className="button main" onClick={() => void navigator.clipboard.writeText(found.filled)}>
                Copy
              </button>
              <a
                className="button"
                download={`${rig.slug}-constants.txt`}
                href={`data:text/plain;charset=utf-8,${encodeURIComponent(found.filled)}`}
              >
                Save as a file
              </a>
            </div>
          )}
        </div>
      </div>
      <Told label="Why it is not filled" badge="fault" rows={found?.cannot} />
      <Told label="What its digits lose" badge="advice" rows={found?.rounded} />
      <Refused error={tried.error} />
      <div className="row">
        <SelectField
          label="Its degrees"
          value={block.unit}
          options={[
            ['C', '°C'],
            ['F', '°F'],
            ['K', 'K'],
          ]}
          onChange={(u) => set({ unit: u })}
        />
      </div>
      <Form
        question={{ fields: data.language, rows: null }}
        values={block.language}
        problem={(name) => problemOf(tried.error, `language.${name}`)}
        onChange={(language) => set({ language: language as Block['language'] })}
      />
      {named.map((p) => (
        <div key={p.name} className="row">
          {p.choices.map(([value, words]) => (
            <TextField
              key={value}
              label={`${p.title} “${words}” is written`}
              value={block.words[p.name]?.[value!] ?? value!}
              onChange={(w) => set({ words: { ...block.words, [p.name]: { ...of(p, block), [value!]: w } } })}
              problem={problemOf(tried.error, `words.${p.name}`)}
            />
          ))}
        </div>
      ))}
      <div className="grid2">
        <TextField
          label={label('tune')}
          value={block.tune}
          onChange={(tune) => set({ tune })}
          hint="Only without product, with the limiter proved."
        />
        <TextField
          label={label('tuned')}
          value={block.tuned}
          onChange={(line) => set({ tuned: line })}
          placeholder="Kp: {kp} Ki: {ki} Kd: {kd}"
          problem={problemOf(tried.error, 'tuned')}
        />
      </div>
      <Refused error={keep.error} />
      <div className="row">
        <button
          className="button"
          disabled={!changed || keep.isPending || !!tried.error || !!draft.theirs}
          onClick={() => keep.mutate(block, { onSuccess: draft.discard })}
        >
          {data.kept ? 'Keep the changed block' : 'Keep it as this rig’s'}
        </button>
      </div>
      {data.kept && (
        <section>
          <h2>Read it back</h2>
          {data.block.tuned && (
            <Segments
              label="What is pasted"
              value={tuned ? 'tuned' : 'source'}
              options={[
                ['source', 'Its source'],
                ['tuned', 'What it printed, tuned'],
              ]}
              onChange={(v) => setTuned(v === 'tuned')}
            />
          )}
          <div className="field">
            <label htmlFor="block-back">{tuned ? 'What it printed' : 'Paste the source, or a part of it'}</label>
            <textarea
              id="block-back"
              className="source"
              rows={6}
              spellCheck={false}
              value={pasted}
              onChange={(e) => setPasted(e.target.value)}
            />
          </div>
          <div className="row">
            <button className="button" disabled={!pasted.trim() || back.isPending} onClick={() => back.mutate()}>
              Read it
            </button>
          </div>
          <Refused error={back.error} />
          {read && (
            <>
              <Told label="What could not be read" badge="fault" rows={read.odd} />
              {read.missing.length > 0 && <p className="small">Not in it: {read.missing.join(', ')}.</p>}
              {read.values.length > 0 && (
                <>
                  <table className="plain">
                    <tbody>
                      {read.values.map((v) => (
                        <tr key={v.name}>
                          <td>{v.title}</td>
                          <td className="right">{spoken(v, v.before, parameters, unit)}</td>
                          <td className="right">
                            <strong>{spoken(v, v.value, parameters, unit)}</strong>
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                  <div className="row">
                    <button
                      className="button main"
                      onClick={() => onFound(Object.fromEntries(read.values.map((v) => [v.name, v.value])) as Values)}
                    >
                      Into the sheet
                    </button>
                    <span className="small dim">
                      {tuned ? 'Found by itself, and lost at the next start unless its source has it too.' : 'Save it there as found.'}
                    </span>
                  </div>
                </>
              )}
            </>
          )}
        </section>
      )}
    </div>
  )
}

/** The words of a parameter's choices as the block has them, each at least its own name. */
const of = (p: Schemas['ParameterView'], block: Block) => Object.fromEntries(p.choices.map(([v]) => [v!, block.words[p.name]?.[v!] ?? v!]))

function spoken(v: Schemas['ReadValue'], value: unknown, parameters: Schemas['ParameterView'][], unit: 'C' | 'F') {
  if (value == null) return '–'
  if (typeof value === 'number') return say(value, v.kind as Quantity | null, unit)
  return parameters.find((p) => p.name === v.name)?.choices.find(([k]) => k === value)?.[1] ?? String(value)
}

function Told({ label, badge, rows }: { label: string; badge: string; rows?: Schemas['SaidOf'][] }) {
  const { unit } = usePreferences()
  if (!rows?.length) return null
  return (
    <ul className="findings" aria-label={label}>
      {rows.map((r) => (
        <li key={r.title + r.why}>
          <span className={`badge ${badge}`}>{badge}</span> {r.title}: {said(r.why, unit)}; {said(r.accepted, unit)}.
        </li>
      ))}
    </ul>
  )
}
