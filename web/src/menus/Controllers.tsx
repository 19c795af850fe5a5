import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useInAddress } from '../api/address'
import { api, need, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { Fetched } from '../shared/Fetched'
import { FromFile } from '../shared/FromFile'
import { ProgrammeFields } from '../shared/ProgrammeFields'
import { ListField, NumberField, SelectField, TextField } from '../shared/fields'
import { Refused } from '../shared/states'
import { ReasonOfPlace, ReasonPanel, Reasons } from '../shell/reason'
import { type Description, useControllers } from './data'
import { EMPTY, renamed, withGroup, without, withPasted } from './editing'
import { FrontPanel } from './FrontPanel'
import { GestureField } from './GestureField'
import { Manual } from './Manual'
import { PageRows } from './PageRows'
import '../maps/maps.css'
import './menus.css'

/** Controllers' menus: described once from the manual, then walked through, rehearsed and looked up. */
export default function Controllers() {
  return (
    <Reasons>
      <div className="rig new">
        <main id="work" tabIndex={-1}>
          <Library />
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
        </aside>
      </div>
      <ReasonOfPlace>
        <h2>From the manual</h2>
        <p>Paste the list of its pages, a page a line, its code first; groups in brackets. Then say which keys lead in, on and out.</p>
        <p>An exclamation mark before a choice guards it: no walk passes it. Use it for a factory reset and for auto-tune.</p>
        <p>What shows a page only sometimes, what it resets or converts, and what bounds it stand under “more” of its row.</p>
        <div className="caution">
          <strong>Try it here before you try it there.</strong> A wrong description presses wrong keys. Where a level stops the outputs, say
          so.
        </div>
      </ReasonOfPlace>
    </Reasons>
  )
}

function Library() {
  const library = useControllers()
  const [key, setKey] = useInAddress<string>('controller', '')
  return (
    <Fetched query={library}>
      {(data) => (
        <>
          <h1>How is the controller operated?</h1>
          <ul className="maps" aria-label="Controllers">
            {data.controllers.map((c) => (
              <li key={c.key}>
                <button className={key === c.key ? 'chosen' : ''} aria-pressed={key === c.key} onClick={() => setKey(c.key)}>
                  <b>{c.title}</b>
                  <span>
                    {c.rigs ? `${c.rigs} ${c.rigs === 1 ? 'rig has' : 'rigs have'} it` : c.own ? 'yours' : 'invented, to learn on'}
                  </span>
                </button>
              </li>
            ))}
            <li>
              <button className={key === '' ? 'chosen' : ''} aria-pressed={key === ''} onClick={() => setKey('')}>
                <b>A new one</b>
                <span>from its manual, or from a file</span>
              </button>
            </li>
          </ul>
          <One key={key} stored={key} own={!key || !!data.controllers.find((c) => c.key === key)?.own} onKey={setKey} />
        </>
      )}
    </Fetched>
  )
}

function One({ stored, own, onKey }: { stored: string; own: boolean; onKey: (key: string) => void }) {
  const kept = useQuery({
    queryKey: ['controllers', stored],
    queryFn: () =>
      stored
        ? need(api.GET('/api/v1/controllers/{key}', { params: { path: { key: stored } } }))
        : need(api.POST('/api/v1/controllers/check', { body: { description: EMPTY } })),
  })
  return <Fetched query={kept}>{(data) => <Editor stored={stored} own={own} data={data} onKey={onKey} />}</Fetched>
}

interface EditorProps {
  stored: string
  own: boolean
  data: Schemas['DescriptionView']
  onKey: (key: string) => void
}

/** Taken when the field is left: while it is being typed there are keys missing, and what they did would be lost. */
function KeysField({ keys, onChange }: { keys: string[]; onChange: (keys: string[]) => void }) {
  const [typed, setTyped] = useState<string | null>(null)
  const take = () => {
    const named = (typed ?? '')
      .split(',')
      .map((k) => k.trim())
      .filter(Boolean)
    if (typed !== null && named.length) onChange(named)
    setTyped(null)
  }
  return (
    <div onBlur={take}>
      <TextField label="Keys, as they are marked" value={typed ?? keys.join(', ')} onChange={setTyped} />
    </div>
  )
}

const KEPT_BY = [
  ['step', 'each step'],
  ['store', 'a key that keeps'],
  ['next', 'going on'],
  ['leave', 'leaving'],
  ['pause', 'a pause'],
  ['timeout', 'the time-out'],
] as const

function Editor({ stored, own, data, onKey }: EditorProps) {
  const queries = useQueryClient()
  const [made, setMade] = useKept<Description>(`controller ${stored}`, data.description)
  const [list, setList] = useState('')
  const [doubts, setDoubts] = useState<string[]>([])
  const [unread, setUnread] = useState('')
  const set = (part: Partial<Description>) => setMade({ ...made, ...part })
  const checked = useQuery({
    queryKey: ['controllers', 'check', made],
    queryFn: () => need(api.POST('/api/v1/controllers/check', { body: { description: made } })),
    placeholderData: (before) => before,
    retry: false,
  })
  const problems = checked.data?.problems ?? []
  const paste = useMutation({
    mutationFn: () =>
      need(api.POST('/api/v1/controllers/pasted', { body: { text: list, taken: made.groups.flatMap((g) => g.pages.map((p) => p.key)) } })),
    onSuccess: ({ groups }) => {
      setMade(withPasted(made, groups))
      setDoubts(groups.flatMap((g) => g.doubts))
      setList('')
    },
  })
  const save = useMutation({
    mutationFn: async () => {
      const body = { description: made }
      const found =
        stored && own
          ? await need(api.PUT('/api/v1/controllers/{key}', { params: { path: { key: stored } }, body }))
          : await need(api.POST('/api/v1/controllers', { body }))
      setMade(data.description)
      await queries.invalidateQueries({ queryKey: ['controllers'] })
      onKey(found.key)
    },
  })
  const remove = useMutation({
    mutationFn: async () => {
      await need(api.DELETE('/api/v1/controllers/{key}', { params: { path: { key: stored } } }))
      await queries.invalidateQueries({ queryKey: ['controllers'] })
      onKey('')
    },
  })
  const bring = async (file: File) => {
    try {
      const brought = JSON.parse(await file.text()) as Description
      const view = await need(api.POST('/api/v1/controllers/check', { body: { description: brought } }))
      setUnread('')
      setMade(view.description)
    } catch (error) {
      setUnread(error instanceof SyntaxError ? 'This is no JSON file.' : String((error as Error).message))
    }
  }
  const { editing } = made
  const edit = (part: Partial<Description['editing']>) => set({ editing: { ...editing, ...part } })
  const speak = (part: Partial<Description['language']>) => set({ language: { ...made.language, ...part } })
  const schools = (name: 'offset_school' | 'hysteresis_school' | 'anti_windup', label: string) => (
    <SelectField
      label={label}
      value={made[name]}
      options={[['', 'not known'], ...((data.parameters.find((p) => p.name === name)?.choices ?? []) as [string, string][])]}
      onChange={(value) => set({ [name]: value })}
    />
  )
  const general = problems.filter((p) => !/^groups\[\d+\]\.pages\[/.test(String(p.field)))
  const options = made.keys.map((k): [string, string] => [k, k])
  return (
    <div className="mapform">
      <div className="row maphead">
        <TextField label="Controller" value={made.title} onChange={(title) => set({ title })} />
        <KeysField keys={made.keys} onChange={(keys) => setMade(renamed(made, keys))} />
        <NumberField label="Digits of its display" value={made.digits} onChange={(digits) => set({ digits: digits ?? 4 })} />
        <NumberField
          label="Back by itself after"
          kind="time"
          value={made.timeout_s}
          onChange={(timeout_s) => set({ timeout_s: timeout_s ?? 0 })}
        />
      </div>
      <ListField
        label="What stands at its terminals"
        hint="1=IN+, 2=IN-, 8=COM: the wiring’s names. For one kind only: 8=COM controller_relay."
        value={made.terminals.map((t) => `${t.number}=${t.terminal}${t.variant && ` ${t.variant}`}`)}
        onChange={(rows) => set({ terminals: rows.map(terminalOf) })}
        problem={problemAt(problems, 'terminals[')}
      />
      <ListField
        label="What one may have, and another not"
        hint="second output, board that sends a current: a page says under “more” what it is there with, a choice by AnA=pid @second output."
        value={made.options}
        onChange={(options) => set({ options })}
        problem={problemAt(problems, 'options')}
      />
      <fieldset className="how">
        <legend>How it counts</legend>
        <div className="row">
          <SelectField label="Its PID" value={made.language.form} options={FORMS} onChange={(form) => speak({ form })} />
          {made.language.form !== 'parallel' && (
            <>
              <SelectField
                label="First number"
                value={made.language.proportional}
                options={FIRST}
                onChange={(p) => speak({ proportional: p })}
              />
              <SelectField label="Times" value={made.language.times} options={TIMES} onChange={(times) => speak({ times })} />
            </>
          )}
          {made.language.proportional === 'percent' && (
            <NumberField
              label="Its span"
              kind="temperature_difference"
              value={made.language.span_c}
              onChange={(span_c) => span_c !== null && speak({ span_c })}
            />
          )}
          {schools('offset_school', 'Offset is')}
          {schools('hysteresis_school', 'Hysteresis lies')}
          {schools('anti_windup', 'Integral at full output')}
        </div>
      </fieldset>
      <fieldset className="how">
        <legend>Its programmes</legend>
        <label className="tick">
          <input type="checkbox" checked={made.programme !== null} onChange={(e) => set({ programme: e.target.checked ? FORM : null })} />
          it runs programmes by itself
        </label>
        {made.programme && (
          <ProgrammeFields
            form={made.programme}
            onChange={(part) => set({ programme: { ...made.programme!, ...part } })}
            problem={(name) => problemAt(problems, `programme.${name}`)}
          />
        )}
      </fieldset>
      <fieldset className="how">
        <legend>How a value is changed</legend>
        <div className="row">
          <SelectField label="More" value={editing.up} options={options} onChange={(up) => edit({ up })} />
          <SelectField label="Less" value={editing.down} options={[['', 'none'], ...options]} onChange={(down) => edit({ down })} />
          <SelectField
            label="Next digit"
            value={editing.shift}
            options={[['', 'whole values'], ...options]}
            onChange={(shift) => edit({ shift })}
          />
          {!editing.shift && (
            <NumberField label="Steps a second, held" value={editing.per_second} onChange={(n) => edit({ per_second: n ?? 0 })} />
          )}
          <GestureField label="Begun by" optional value={editing.opens} keys={made.keys} onChange={(opens) => edit({ opens })} />
        </div>
        <div className="row" role="group" aria-label="Kept by">
          <span>Kept by</span>
          {KEPT_BY.map(([key, words]) => (
            <label key={key} className="tick">
              <input
                type="checkbox"
                checked={editing.kept_by.includes(key)}
                onChange={(e) => edit({ kept_by: e.target.checked ? [...editing.kept_by, key] : editing.kept_by.filter((k) => k !== key) })}
              />{' '}
              {words}
            </label>
          ))}
          {editing.kept_by.includes('store') && (
            <GestureField label="The key that keeps" value={editing.store} keys={made.keys} onChange={(store) => edit({ store })} />
          )}
          {editing.kept_by.includes('pause') && (
            <NumberField label="Pause" kind="time" value={editing.pause_s} onChange={(n) => edit({ pause_s: n ?? 0 })} />
          )}
        </div>
      </fieldset>
      {stored && own && <Manual stored={stored} />}
      <div className="field">
        <label htmlFor="pages-list">Paste the list of its pages</label>
        <textarea
          id="pages-list"
          rows={4}
          value={list}
          placeholder={'[Level one]\nHy  Hysteresis  0.1…20.0 default 1.0\nIn  Sensor type: tK=thermocouple K, P=Pt100'}
          onChange={(e) => setList(e.target.value)}
        />
      </div>
      <div className="row">
        <button className="button" disabled={!list.trim() || paste.isPending} onClick={() => paste.mutate()}>
          Make pages of it
        </button>
        {doubts.length > 0 && <span className="wrong">Look again: {doubts.join(' · ')}</span>}
      </div>
      <Refused error={paste.error} />
      {made.groups.map((group, g) => {
        const way = made.ways.findIndex((w) => w.to === group.key)
        const put = (part: Partial<typeof group>) => set({ groups: made.groups.map((o, i) => (i === g ? { ...o, ...part } : o)) })
        return (
          <fieldset key={group.key} className="menugroup">
            <legend>{group.title}</legend>
            <div className="row">
              <TextField label="Group" value={group.title} onChange={(title) => put({ title })} />
              {way >= 0 && (
                <GestureField
                  label="Way in"
                  value={made.ways[way]!.gesture}
                  keys={made.keys}
                  onChange={(gesture) => gesture && set({ ways: made.ways.map((w, i) => (i === way ? { ...w, gesture } : w)) })}
                />
              )}
              <GestureField label="Next page" value={group.next} keys={made.keys} onChange={(next) => next && put({ next })} />
              <SelectField
                label="After the last page"
                value={group.after_last}
                options={[
                  ['first', 'the first again'],
                  ['leaves', 'out'],
                ]}
                onChange={(after_last) => put({ after_last })}
              />
              <GestureField label="Way out" optional value={group.leave} keys={made.keys} onChange={(leave) => put({ leave })} />
              <label className="tick">
                <input type="checkbox" checked={group.outputs_stop} onChange={(e) => put({ outputs_stop: e.target.checked })} /> outputs
                stop inside
              </label>
            </div>
            <PageRows made={made} at={g} parameters={data.parameters} problems={problems} onChange={setMade} />
            {g > 0 && (
              <button type="button" className="button quiet" onClick={() => setMade(without(made, g))}>
                Remove {group.title}
              </button>
            )}
          </fieldset>
        )
      })}
      <div className="row">
        <button type="button" className="button" onClick={() => setMade(withGroup(made, '', []))}>
          A group more
        </button>
      </div>
      {general.length > 0 && (
        <ul className="findings" aria-label="What cannot be yet">
          {general.map((p) => (
            <li key={String(p.field) + String(p.reason)}>
              <span className="badge fault">fault</span> {String(p.reason)}; {String(p.accepted)}.
            </li>
          ))}
        </ul>
      )}
      {unread && <p className="wrong">{unread}</p>}
      <Refused error={save.error ?? checked.error ?? remove.error} />
      <div className="row">
        <button className="button main" disabled={save.isPending || problems.length > 0} onClick={() => save.mutate()}>
          {stored && own ? 'Save the changes' : stored ? 'Keep it as a new one' : 'Keep it'}
        </button>
        <a
          className="button"
          download="controller.json"
          href={`data:application/json;charset=utf-8,${encodeURIComponent(JSON.stringify(made, null, 1))}`}
        >
          As a file
        </a>
        <FromFile label="Controller file" onFile={(file) => void bring(file)} />
        {stored && own && (
          <button className="button" disabled={remove.isPending} onClick={() => remove.mutate()}>
            Remove
          </button>
        )}
      </div>
      {!problems.length && made.groups.length > 1 && (
        <div className="tryit">
          <h2>Try it</h2>
          <FrontPanel
            key={JSON.stringify(made.groups.map((g) => g.pages.length))}
            description={made}
            values={made.groups.flatMap((g) => g.pages.map((p) => p.default))}
            reading="20"
          />
        </div>
      )}
    </div>
  )
}

const terminalOf = (text: string): Description['terminals'][number] => {
  const [number = '', rest = ''] = text.split('=').map((s) => s.trim())
  const [terminal = '', variant = ''] = rest.split(/\s+/)
  return { number, terminal, variant }
}

/** The first thing wrong at a field. */
function problemAt(problems: Schemas['DescriptionView']['problems'], field: string) {
  const found = problems.find((p) => String(p.field).startsWith(field))
  return found && { field: String(found.field), reason: String(found.reason), accepted: String(found.accepted) }
}

/** What a controller’s programmes hold until its manual is looked up. */
const FORM: NonNullable<Description['programme']> = {
  segments: 8,
  ramp_by: 'time',
  time_step_s: 60,
  rate_step: 0.1,
  degree_step: 1,
  longest_s: 59940,
  holdback: 'none',
  loops: false,
}

const FORMS = [
  ['standard', 'gain on all three'],
  ['series', 'one after the other'],
  ['parallel', 'three gains of their own'],
] as const
const FIRST = [
  ['band', 'a band in degrees'],
  ['percent', 'a band in % of span'],
  ['gain', 'a gain'],
] as const
const TIMES = [
  ['seconds', 'in seconds'],
  ['minutes', 'in minutes'],
  ['repeats', 'repeats a minute'],
] as const
