import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef } from 'react'
import { api, need, upload, type Quantity, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { Failure, Loading, problemOf, Refused } from '../shared/states'
import { ReasonedPage } from '../shell/reason'
import { PartPicture } from './PartPicture'
import './library.css'
import { useWords } from '../units/fields'

type Own = Omit<Schemas['OwnView'], 'id'> & { id: number | null }
type Kind = Schemas['KindView']

const KEY = ['library']
const NEW: Own = { id: null, title: '', kind: 'controller_ssr', numbers: {}, ratings: {} }

export const useLibrary = () => useQuery({ queryKey: KEY, queryFn: () => need(api.GET('/api/v1/library')) })

/** The workshop's own parts: which number is printed at which terminal. */
export default function Library() {
  return (
    <ReasonedPage
      place={
        <>
          <h2>The numbers on your part</h2>
          <p>Every maker numbers terminals differently. Write here once what stands at each terminal of yours; every rig then shows it.</p>
          <p>In a wire, A1.13 is understood as well as A1.NO.</p>
          <p>One number has one role: if an option board changes what a terminal does, it is another part.</p>
          <div className="caution">
            <strong>Read the label of the part in your hand.</strong> Two versions of one part may differ in a single terminal.
          </div>
        </>
      }
    >
      <Parts />
    </ReasonedPage>
  )
}

function Parts() {
  const { data, error } = useLibrary()
  const [draft, setDraft] = useKept<Own>('own part', NEW)
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const kind = data.kinds.find((k) => k.kind === draft.kind)!
  return (
    <>
      <h1>Which number stands at which terminal?</h1>
      <div className="library">
        <PartPicture
          kind={kind}
          title={draft.title}
          numbers={draft.numbers}
          onNumber={(t, n) => setDraft({ ...draft, numbers: { ...draft.numbers, [t]: n } })}
        />
        <PartForm key={draft.id ?? 'new'} kinds={data.kinds} kind={kind} draft={draft} setDraft={setDraft} />
      </div>
      <OwnList own={data.own} kinds={data.kinds} onOpen={(o) => setDraft({ ...o })} onNew={() => setDraft(NEW)} />
    </>
  )
}

function PartForm({ kinds, kind, draft, setDraft }: { kinds: Kind[]; kind: Kind; draft: Own; setDraft: (own: Own) => void }) {
  const { label } = useWords()
  const queries = useQueryClient()
  const save = useMutation({
    mutationFn: async () => {
      const { id, ...body } = draft
      const found =
        id === null
          ? await need(api.POST('/api/v1/library', { body }))
          : await need(api.PUT('/api/v1/library/{key}', { params: { path: { key: id } }, body }))
      queries.setQueryData(KEY, found)
      const mine = found.own.find((o) => o.title === body.title.trim())
      if (mine) setDraft({ ...mine })
    },
  })
  const remove = useMutation({
    mutationFn: async () => {
      queries.setQueryData(KEY, await need(api.DELETE('/api/v1/library/{key}', { params: { path: { key: draft.id! } } })))
      setDraft(NEW)
    },
  })
  const problem = (field: string) => problemOf(save.error, field)
  return (
    <div className="stack">
      <SelectField
        label={label('kind')}
        value={draft.kind}
        options={kinds.map((k) => [k.kind, k.title] as const)}
        onChange={(k) => setDraft({ ...draft, kind: k, numbers: {}, ratings: {} })}
        problem={problem('kind')}
      />
      <TextField
        label="Your name for it"
        placeholder="such as: kiln controller, grey"
        value={draft.title}
        onChange={(title) => setDraft({ ...draft, title })}
        problem={problem('title')}
      />
      {kind.ratings.map((r) =>
        r.kind ? (
          <NumberField
            key={r.name}
            label={r.label}
            kind={r.kind as Quantity}
            value={Number(draft.ratings[r.name] ?? r.usual)}
            onChange={(v) => setDraft({ ...draft, ratings: { ...draft.ratings, [r.name]: v ?? NaN } })}
            problem={problem(`ratings.${r.name}`)}
          />
        ) : (
          <SelectField
            key={r.name}
            label={r.label}
            value={String(draft.ratings[r.name] ?? r.usual)}
            options={r.options.map((o) => [o, o] as const)}
            onChange={(v) => setDraft({ ...draft, ratings: { ...draft.ratings, [r.name]: v } })}
            problem={problem(`ratings.${r.name}`)}
          />
        ),
      )}
      <Refused error={save.error ?? remove.error} />
      <div className="row">
        <button className="button main" disabled={save.isPending} onClick={() => save.mutate()}>
          {draft.id === null ? 'Save to the library' : 'Save the changes'}
        </button>
        {draft.id !== null && (
          <button className="button" disabled={remove.isPending} onClick={() => remove.mutate()}>
            Remove
          </button>
        )}
      </div>
    </div>
  )
}

function OwnList({
  own,
  kinds,
  onOpen,
  onNew,
}: {
  own: Schemas['OwnView'][]
  kinds: Kind[]
  onOpen: (own: Own) => void
  onNew: () => void
}) {
  const queries = useQueryClient()
  const picker = useRef<HTMLInputElement>(null)
  const bringIn = useMutation({
    mutationFn: async (file: File) => {
      queries.setQueryData(
        KEY,
        await upload<Schemas['LibraryView']>('/api/v1/library/import', file, () => undefined, new AbortController().signal),
      )
    },
  })
  return (
    <section style={{ marginTop: 18 }}>
      <h2>Your parts</h2>
      {own.length === 0 && <p className="dim">None yet. Generic parts work without; yours show the numbers on them.</p>}
      <ul className="own-parts">
        {own.map((o) => (
          <li key={o.id}>
            <button className="button quiet" onClick={() => onOpen(o as Own)}>
              {o.title}
            </button>
            <span className="dim">{kinds.find((k) => k.kind === o.kind)?.title}</span>
            <span className="num small">
              {Object.entries(o.numbers)
                .map(([t, n]) => `${t}→${n}`)
                .join(', ')}
            </span>
          </li>
        ))}
      </ul>
      <div className="row">
        <button className="button" onClick={onNew}>
          Another part
        </button>
        <button className="button" onClick={() => picker.current?.click()}>
          Import
        </button>
        <a className="button" href="/api/v1/library/export.json" download>
          Export as JSON
        </a>
        <a className="button" href="/api/v1/library/export.csv" download>
          Export as CSV
        </a>
        <input
          ref={picker}
          type="file"
          accept=".json,.csv"
          className="visually-hidden"
          aria-label="Parts file"
          tabIndex={-1}
          onChange={(e) => {
            const file = e.target.files?.[0]
            e.target.value = ''
            if (file) bringIn.mutate(file)
          }}
        />
      </div>
      <Refused error={bringIn.error} />
    </section>
  )
}
