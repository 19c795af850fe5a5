import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { FromFile } from '../shared/FromFile'
import { ProgrammeFields } from '../shared/ProgrammeFields'
import { ListField, NumberField, TextField } from '../shared/fields'
import { Refused } from '../shared/states'
import type { Description } from './data'
import { renamed, withGroup, withPasted } from './editing'
import { FrontPanel } from './FrontPanel'
import { GroupFields } from './GroupFields'
import { HowChanged } from './HowChanged'
import { HowItCounts } from './HowItCounts'
import { Manual } from './Manual'
import { problemAt } from './problems'
import { useWords } from '../units/fields'

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

/** A description as it is written: from the manual, from a pasted list, from a file; checked while it is. */
export function Editor({ stored, own, data, onKey }: EditorProps) {
  const { label } = useWords()
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
  const told = checked.data ?? data
  const { problems } = told
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
  const general = problems.filter((p) => !/^groups\[\d+\]\.pages\[/.test(String(p.field)))
  return (
    <div className="mapform">
      <div className="row maphead">
        <TextField label="Controller" value={made.title} onChange={(title) => set({ title })} />
        <KeysField keys={made.keys} onChange={(keys) => setMade(renamed(made, keys))} />
        <NumberField label={label('digits')} value={made.digits} onChange={(digits) => set({ digits: digits ?? 4 })} />
        <NumberField
          label={label('timeout_s')}
          kind="time"
          value={made.timeout_s}
          onChange={(timeout_s) => set({ timeout_s: timeout_s ?? 0 })}
        />
      </div>
      <ListField
        label={label('terminals')}
        hint="1=IN+, 2=IN-, 8=COM: the wiring’s names. For one kind only: 8=COM controller_relay."
        value={made.terminals.map((t) => `${t.number}=${t.terminal}${t.variant && ` ${t.variant}`}`)}
        onChange={(rows) => set({ terminals: rows.map(terminalOf) })}
        problem={problemAt(problems, 'terminals[')}
      />
      <ListField
        label={label('options')}
        hint="second output, board that sends a current: a page says under “more” what it is there with, a choice by AnA=pid @second output."
        value={made.options}
        onChange={(options) => set({ options })}
        problem={problemAt(problems, 'options')}
      />
      <HowItCounts made={made} data={told} set={set} />
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
      <HowChanged made={made} data={told} set={set} />
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
      {made.groups.map((group, g) => (
        <GroupFields key={group.key} made={made} data={told} at={g} onChange={setMade} />
      ))}
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
