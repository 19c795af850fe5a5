import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../api/client'
import { Form } from '../questions/Form'
import { Fig } from '../shared/Fig'
import { NumberField, TextField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { Refused, problemOf } from '../shared/states'
import { day } from '../shared/when'
import { useWords } from '../units/fields'
import { say } from '../units/quantity'
import { usePreferences } from '../shell/preferences'
import { answersOf, type Compared, type Draft, orUnreadable, type Says } from './draft'

interface Props {
  rig: Rig
  data: Compared
  draft: Draft
  wrong: unknown
}

/** What it is compared with: a reference of the workshop, or a kind of one with what is known of it. */
export function Standard({ rig, data, draft, wrong }: Props) {
  const { compared_with, instrument, reference, certificate_c, certificate_says, at_c } = draft.values
  const { label, choices } = useWords()
  const asked = useStandard(rig, draft)
  const chosen = data.instruments.find((i) => i.id === instrument)
  const kind = compared_with.kind
  const fields = data.reference_fields.filter((f) => f.name !== 'kind')
  return (
    <>
      <h2>Compared with what?</h2>
      <div className="grid2">
        <NumberField
          label="Compared at"
          kind="temperature"
          hint="The working temperature, unless you compare at several."
          value={at_c}
          onChange={orUnreadable((at_c) => draft.set({ at_c }))}
          problem={problemOf(wrong, 'at_c')}
        />
      </div>
      <div className="row">
        {data.instruments
          .filter((i) => i.certified)
          .map((i) => (
            <button
              key={i.id}
              type="button"
              className="button"
              aria-pressed={instrument === i.id}
              onClick={() =>
                draft.set({ instrument: i.id, compared_with: {}, reference: i.name, certificate_c: null, certificate_says: null })
              }
            >
              {i.name}
            </button>
          ))}
        {(asked.data?.offered ?? data.offered).map((o) => (
          <button
            key={o.kind}
            type="button"
            className="button"
            aria-pressed={kind === o.kind}
            onClick={() => draft.set({ compared_with: { kind: o.kind }, instrument: null, reference: o.title })}
          >
            {o.title}
          </button>
        ))}
      </div>
      {chosen && (
        <p className="small dim">
          <Said>{chosen.note}</Said>
          {chosen.due && ` Certificate until ${day(chosen.due)}.`}
        </p>
      )}
      {typeof kind === 'string' && (
        <Form
          question={{ fields, rows: null }}
          values={withDefaults(data, compared_with)}
          problem={(field) => problemOf(wrong, field)}
          onChange={(values) => draft.set({ compared_with: values })}
        />
      )}
      <Worth rig={rig} draft={draft} />
      <div className="grid2">
        <TextField
          label={label('reference')}
          placeholder="and its number, if it has one"
          value={reference}
          onChange={(reference) => draft.set({ reference })}
          problem={problemOf(wrong, 'reference')}
        />
        {instrument === null && (
          <NumberField
            label={label('certificate_c')}
            kind="temperature_difference"
            hint="Pairs are what it reads: the number is worked in for you."
            value={certificate_c}
            onChange={orUnreadable((certificate_c) => draft.set({ certificate_c }))}
            problem={problemOf(wrong, 'certificate_c')}
          />
        )}
      </div>
      {!!certificate_c && (
        <Segments
          label={label('certificate_says')}
          value={certificate_says}
          options={choices('certificate_says') as [Says, string][]}
          onChange={(says) => draft.set({ certificate_says: says })}
        />
      )}
    </>
  )
}

/** What the chosen reference is worth here, and what to heed with it. */
function Worth({ rig, draft }: { rig: Rig; draft: Draft }) {
  const { unit } = usePreferences()
  const found = useStandard(rig, draft)
  if (found.error) return <Refused error={found.error} />
  if (!found.data) return null
  const { worth, certified, warns } = found.data
  return (
    <p className="worth">
      {certified && (
        <>
          <b>{say(certified.added_c, 'temperature_difference', unit)}</b> is added to what it reads, ±{' '}
          {say(2 * certified.u_c, 'temperature_difference', unit)}. <Said>{certified.reason}</Said>{' '}
        </>
      )}
      {worth?.value && (
        <>
          It is at <Fig figure={worth.value} />.{' '}
        </>
      )}
      {worth?.u && (
        <>
          Worth ± <Fig figure={worth.u} /> (one standard uncertainty).{' '}
        </>
      )}
      {worth && <Said>{worth.warns}</Said>} {warns && <Said>{warns}</Said>}
    </p>
  )
}

/** Asked anew whenever an answer changes; one that cannot be read is not asked. */
export function useStandard(rig: Rig, draft: Draft) {
  const { compared_with, instrument, at_c } = draft.values
  const body = { compared_with: answersOf(compared_with), instrument, at_c }
  return useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'reference', rig.revision, body],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/calibration/reference', { params: { path: { slug: rig.slug } }, body })),
    enabled: !Number.isNaN(at_c),
    placeholderData: (before) => before,
    retry: false,
  })
}

/** Every field of the form has a value: what is not answered yet is as the form says. */
function withDefaults(data: Compared, answers: Record<string, unknown>) {
  return { ...data.reference_start, ...answers }
}
