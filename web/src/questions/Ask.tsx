import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Finding, type Rig, type Schemas } from '../api/client'
import { useChange, useDraft } from '../api/hooks'
import { Fig } from '../shared/Fig'
import { Overtaken, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace, useShow } from '../shell/reason'
import { localise } from '../units/quantity'
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
  const [values, setValues] = useState<Values>(question.start)
  const [pressed, setPressed] = useState('')
  const begun = useDraftOf(rig)
  const { data, error, isFetching } = useQuery({
    queryKey: ['ask', question.key, values],
    queryFn: () => need(api.POST('/api/v1/questions/{key}', { params: { path: { key: question.key } }, body: { values } })),
    placeholderData: (before) => before,
    retry: false,
  })
  const change = (next: Values) => {
    begun?.begin()
    setValues(next)
  }
  const pictured = !!data && (!!data.curves || !!data.drawing || !!data.bank || data.cables.length > 0 || data.bars.length > 0)
  const choices = data && data.alternatives.length > 0 && <Alternatives alternatives={data.alternatives} pressed={pressed} onPress={setPressed} />
  return (
    <div className="ask">
      <h1>{question.title}</h1>
      {data && !error && (
        <section className={isFetching ? 'answer waiting' : 'answer'} aria-live="polite" aria-busy={isFetching}>
          <p className="headline">{localise(data.headline, unit)}</p>
          {data.curves && <CurvesPicture curves={data.curves} label={`${question.title} ${data.headline}`} front={pressed} />}
          {data.cables.length > 0 && <Cables cables={data.cables} />}
          {data.bank && <BankPicture bank={data.bank} />}
          {data.drawing && <DrawingSheet drawing={data.drawing} />}
          {data.bars.length > 0 && <Bars bars={data.bars} />}
          {!pictured && choices}
          <FindingList findings={data.findings} />
          {data.figures.length > 0 && <FigureLine figures={data.figures} />}
          {data.table && <NumberTable table={data.table} />}
        </section>
      )}
      <Refused error={error} />
      {begun?.overtaken && <Overtaken />}
      <div className="row noprint">
        {rig && begun && <Keep rig={rig} question={question} values={values} refused={!!error} begun={begun} />}
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
      <Form question={question} values={values} error={error} onChange={change} />
      {!error && pictured && choices}
      <ReasonOfPlace>
        <h2>Worth knowing</h2>
        {question.notes.map((n) => (
          <p key={n}>{localise(n, unit)}</p>
        ))}
        <div className="caution">
          <strong>Take care.</strong> {localise(question.caution, unit)}
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

type Draft = ReturnType<typeof useDraft>

function useDraftOf(rig: Rig | undefined): Draft | null {
  const draft = useDraft(rig ?? NO_RIG)
  return rig ? draft : null
}

const NO_RIG = { revision: 0 } as Rig

function Keep({ rig, question, values, refused, begun }: { rig: Rig; question: Question; values: Values; refused: boolean; begun: Draft }) {
  const keep = useChange(rig.slug, async (given: Values) => {
    begun.end()
    return need(api.PUT('/api/v1/rigs/{slug}/questions/{key}', { params: { path: { slug: rig.slug, key: question.key } }, body: { revision: begun.revision, values: given } }))
  })
  const drop = useChange(rig.slug, async () =>
    need(api.DELETE('/api/v1/rigs/{slug}/questions/{key}', { params: { path: { slug: rig.slug, key: question.key }, query: { revision: rig.revision } } })),
  )
  const tried = question.fields.filter((f) => question.follows.includes(f.name) && values[f.name] !== question.start[f.name])
  const same = question.kept && JSON.stringify(values) === JSON.stringify(question.start)
  return (
    <>
      <button className="button main" disabled={refused || same || keep.isPending} onClick={() => keep.mutate(values)}>
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
          <dt>{f.name[0]?.toUpperCase() + f.name.slice(1)}</dt>
          <dd>
            <Fig figure={f} />
          </dd>
        </div>
      ))}
    </dl>
  )
}

export function FindingList({ findings }: { findings: Finding[] }) {
  const { unit } = usePreferences()
  const show = useShow()
  return (
    <ul className="findings">
      {findings.map((f) => (
        <li key={f.rule + f.subjects.join()}>
          <span className={`badge ${f.severity}`}>{f.severity}</span>
          <button className="title" onClick={() => show({ finding: f })}>
            {localise(f.title, unit)}
          </button>
        </li>
      ))}
    </ul>
  )
}
