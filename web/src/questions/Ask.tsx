import { useQuery } from '@tanstack/react-query'
import { useLocation } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useAddress, useInAddress } from '../api/address'
import { useChange } from '../api/hooks'
import { type Draft, same, useDraft } from '../api/kept'
import { Conflict } from '../shared/Conflict'
import { Fig } from '../shared/Fig'
import { FindingTitles } from '../shared/Findings'
import { Said } from '../shared/Said'
import { problemOf, Refused } from '../shared/states'
import { Resumed } from '../shared/Resumed'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { said } from '../units/message'
import { capital } from '../units/quantity'
import { BankPicture } from './BankPicture'
import { Cables } from './Cables'
import { CurvesPicture } from './Curves'
import type { Question, Values } from './data'
import { Form } from './Form'
import { KeepInRig } from './KeepInRig'
import { NumberTable } from './NumberTable'
import { Alternatives, Bars, DrawingSheet } from './pictures'
import './questions.css'

/** One question: its answer as a sentence and a picture, then figures, then what it was asked with. */
export function Ask({ question, rig }: { question: Question; rig?: Rig }) {
  const { unit } = usePreferences()
  const { draft, change } = useAsked(question, rig)
  const values = draft.values
  const [pressed, setPressed] = useInAddress<string>('front', '')
  const { data, error, isFetching } = useQuery({
    queryKey: ['ask', question.key, values],
    queryFn: () => need(api.POST('/api/v1/questions/{key}', { params: { path: { key: question.key } }, body: { values } })),
    placeholderData: (before) => before,
    retry: false,
  })
  const pictured = !!data && (!!data.curves || !!data.drawing || !!data.bank || data.cables.length > 0 || data.bars.length > 0)
  const choices = data && data.alternatives.length > 0 && (
    <Alternatives alternatives={data.alternatives} pressed={pressed} onPress={setPressed} />
  )
  return (
    <div className="ask">
      <h1>{question.title}</h1>
      {data && !error && (
        <section className={isFetching ? 'answer waiting' : 'answer'} aria-live="polite" aria-busy={isFetching}>
          <p className="headline">{said(data.headline, unit)}</p>
          {data.curves && <CurvesPicture curves={data.curves} label={`${question.title} ${said(data.headline, unit)}`} front={pressed} />}
          {data.cables.length > 0 && <Cables cables={data.cables} />}
          {data.bank && <BankPicture bank={data.bank} />}
          {data.drawing && <DrawingSheet drawing={data.drawing} />}
          {data.bars.length > 0 && <Bars bars={data.bars} />}
          {!pictured && choices}
          <FindingTitles findings={data.findings} />
          {data.figures.length > 0 && <FigureLine figures={data.figures} />}
          {data.table && <NumberTable table={data.table} />}
        </section>
      )}
      <Refused error={error} />
      {rig && <Resumed draft={draft} />}
      <Conflict
        draft={draft}
        label={(name) => question.fields.find((f) => f.name === name)?.label ?? name}
        says={(_, value) => (typeof value === 'object' ? JSON.stringify(value) : String(value))}
      />
      <div className="row noprint">
        {rig && <Keep rig={rig} question={question} draft={draft} refused={!!error || !!draft.theirs} />}
        {!rig && <KeepInRig question={question} values={values} refused={!!error} />}
        {data?.table && (
          <button className="button" onClick={() => window.print()}>
            Print it
          </button>
        )}
        {data?.drawing && (
          <>
            <button className="button" onClick={() => window.print()}>
              Print at 1:1
            </button>
            <button className="button" onClick={() => void saveTemplate(values)}>
              Template as PDF
            </button>
          </>
        )}
        <button className="button quiet" onClick={() => change(question.start)}>
          Back to where it began
        </button>
      </div>
      <Form question={question} values={values} problem={(field) => problemOf(error, field)} onChange={change} />
      {!error && pictured && choices}
      <ReasonOfPlace>
        <h2>Worth knowing</h2>
        {question.notes.map((n) => (
          <p key={n}>{said(n, unit)}</p>
        ))}
        <div className="caution">
          <strong>Take care.</strong> {said(question.caution, unit)}
        </div>
      </ReasonOfPlace>
    </div>
  )
}

/** The template as a file: a PDF prints at its own size whatever the browser thinks of margins. */
async function saveTemplate(values: Values) {
  const file = (await need(api.POST('/api/v1/panel.pdf', { body: { values }, parseAs: 'blob' }))) as unknown as Blob
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = 'panel.pdf'
  link.click()
  URL.revokeObjectURL(link.href)
}

/** The values asked with: typed, kept through leaving and reload, and in the address as far as they are not those it began with. */
function useAsked(question: Question, rig: Rig | undefined) {
  const draft = useDraft<Values>(rig?.slug ?? '', `ask ${question.key}`, question.start, rig?.revision ?? 0)
  const { search } = useLocation()
  const address = useAddress()
  const linked = asLinked(question.start, search)
  const change = (next: Values) => {
    draft.set(next)
    const changed = Object.fromEntries(Object.entries(next).filter(([name, value]) => !same(value, question.start[name])))
    address({ with: Object.keys(changed).length ? JSON.stringify(changed) : null })
  }
  return { draft: linked ? { ...draft, values: linked } : draft, change }
}

/** The values an address asks with, where it says any that the question knows. */
function asLinked(start: Values, search: string): Values | null {
  try {
    const given = JSON.parse(new URLSearchParams(search).get('with') ?? 'null') as Values | null
    return given && Object.keys(given).every((name) => name in start) ? { ...start, ...given } : null
  } catch {
    return null
  }
}

function Keep({ rig, question, draft, refused }: { rig: Rig; question: Question; draft: Draft<Values>; refused: boolean }) {
  const values = draft.values
  const keep = useChange(rig.slug, (given: Values) =>
    need(
      api.PUT('/api/v1/rigs/{slug}/questions/{key}', {
        params: { path: { slug: rig.slug, key: question.key } },
        body: { revision: draft.revision, values: given },
      }),
    ),
  )
  const drop = useChange(rig.slug, async () =>
    need(
      api.DELETE('/api/v1/rigs/{slug}/questions/{key}', {
        params: { path: { slug: rig.slug, key: question.key }, query: { revision: rig.revision } },
      }),
    ),
  )
  const tried = question.fields.filter((f) => question.follows.includes(f.name) && values[f.name] !== question.start[f.name])
  const same = question.kept && JSON.stringify(values) === JSON.stringify(question.start)
  return (
    <>
      <button
        className="button main"
        disabled={refused || same || keep.isPending}
        onClick={() => keep.mutate(values, { onSuccess: draft.discard })}
      >
        {same ? 'Kept in this rig' : 'Keep in this rig'}
      </button>
      {question.kept && (
        <button className="button" disabled={drop.isPending} onClick={() => drop.mutate(undefined)}>
          Keep no longer
        </button>
      )}
      {tried.length > 0 && (
        <span className="dim" role="status">
          {tried.map((f) => f.label).join(' and ')}: only tried here; what is kept takes the rig's own.
        </span>
      )}
      <Refused error={keep.error ?? drop.error} />
    </>
  )
}

function FigureLine({ figures }: { figures: Schemas['Figure'][] }) {
  return (
    <dl className="ask-figures">
      {figures.map((f) => (
        <div key={f.name}>
          <dt>
            <Said>{capital(f.name)}</Said>
          </dt>
          <dd>
            <Fig figure={f} />
          </dd>
        </div>
      ))}
    </dl>
  )
}
