import { useQuery } from '@tanstack/react-query'
import { useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useChange } from '../api/hooks'
import { useDraft } from '../api/kept'
import { Conflict } from '../shared/Conflict'
import { Fitted } from '../equipment/Fitted'
import { Fetched } from '../shared/Fetched'
import { NumberField, SelectField } from '../shared/fields'
import { Figures } from '../shared/Fig'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { wordsOf } from '../shared/effect'
import { Resumed } from '../shared/Resumed'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { useWords } from '../units/fields'
import { Chain } from './Chain'
import { Compare } from './Compare'
import { PartQuestions } from './PartQuestions'
import './parts.css'

type Choice = Schemas['PartsInputRequest']

/** The parts chosen, or proposed before any are. */
export default function Parts() {
  const rig = useOutletContext<Rig>()
  const offers = useQuery({
    queryKey: ['of', rig.slug, 'parts', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/parts', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  return <Fetched query={offers}>{(data) => <Trying rig={rig} offers={data} stored={(rig.choice ?? data.choice) as Choice} />}</Fetched>
}

/** The chain from plug to load and back through the sensor, for the parts being tried. */
function Trying({ rig, offers, stored }: { rig: Rig; offers: Schemas['PartsView']; stored: Choice }) {
  const { label, choices } = useWords()
  const { unit } = usePreferences()
  const [piece, setPiece] = useInAddress<string>('piece', '')
  const draft = useDraft(rig.slug, 'parts', stored, rig.revision)
  const choice = draft.values
  const trial = useQuery({
    queryKey: ['of', rig.slug, 'parts', 'try', rig.revision, choice],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/parts/try', { params: { path: { slug: rig.slug } }, body: choice })),
    placeholderData: (before) => before,
    retry: false,
  })
  const save = useChange(rig.slug, (parts: Choice) =>
    need(api.PUT('/api/v1/rigs/{slug}/parts', { params: { path: { slug: rig.slug } }, body: { ...parts, revision: draft.revision } })),
  )
  const set = draft.set
  const watches = rig.purpose.effect === 'watches'
  const unchanged = rig.choice && (Object.keys(rig.choice) as (keyof typeof rig.choice)[]).every((k) => rig.choice?.[k] === choice[k])

  return (
    <>
      <h1>{watches ? 'What does it read with?' : 'Is every part on the way strong enough?'}</h1>
      <p className="lead">
        {watches
          ? 'The fill is the highest allowed against what the sensor reads. Press it to see why, and what can be asked about it.'
          : `From plug to ${wordsOf(rig.purpose.effect, !!rig.purpose.fire).noun} and back through the sensor; the fill is duty against rating. Press a part to see why, and what can be asked about it.`}
      </p>
      {trial.data && !trial.error && (
        <Chain
          pieces={trial.data.pieces}
          fills={trial.data.fills}
          over={trial.data.over}
          worst={trial.data.worst}
          pressed={piece}
          onPress={setPiece}
        />
      )}
      {piece && <Compare rig={rig} choice={choice} piece={piece} onTake={set} />}
      <Resumed draft={draft} />
      <Conflict draft={draft} />
      <Refused error={trial.error} />
      <PartQuestions rig={rig} piece={piece} />
      <div className="choices">
        <span>{label('sensor')}</span>
        <span style={{ maxWidth: 260 }}>
          <SelectField
            bare
            label={label('sensor')}
            value={choice.sensor}
            options={offers.sensors.map((o) => [o.name, o.words] as const)}
            onChange={(sensor) => set({ sensor })}
          />
        </span>
        {!watches && (
          <>
            <span>{label('plug_a')}</span>
            <span style={{ maxWidth: 260 }}>
              <NumberField
                label="Plug or inlet, its rating (empty: proposed)"
                kind="current"
                value={choice.plug_a ?? null}
                onChange={(plug_a) => set({ plug_a })}
                problem={problemOf(trial.error, 'plug_a')}
              />
            </span>
            <span>{label('output')}</span>
            <Segments
              label={label('output')}
              value={choice.output}
              options={choices('output') as [Choice['output'], string][]}
              onChange={(output) => set({ output, actuator: offers.drives[output]?.[0] ?? choice.actuator })}
            />
            <span>{label('actuator')}</span>
            <Segments
              label={label('actuator')}
              value={choice.actuator}
              options={(choices('actuator') as [Choice['actuator'], string][])
                .filter(([value]) => value !== 'none')
                .map(([value, said]) => (value === 'relay' && choice.output === 'pin' ? [value, 'Relay module'] : [value, said]))}
              onChange={(actuator) => set({ actuator })}
            />
            <span>{label('limiter')}</span>
            <Segments
              label={label('limiter')}
              value={choice.limiter ? 'yes' : 'no'}
              options={[
                ['yes', 'Fitted, with its own sensor'],
                ['no', 'None'],
              ]}
              onChange={(value) => set({ limiter: value === 'yes' })}
            />
          </>
        )}
        <span>{label('practice')}</span>
        <Segments
          label={label('practice')}
          value={choice.practice}
          options={choices('practice') as [Choice['practice'], string][]}
          onChange={(practice) => set({ practice })}
        />
      </div>
      <div className="row">
        <button
          className="button main"
          disabled={!!unchanged || save.isPending || !!trial.error || !!draft.theirs}
          onClick={() => save.mutate(choice, { onSuccess: draft.discard })}
        >
          {unchanged ? 'These parts are chosen' : 'Use these parts'}
        </button>
        {rig.choice && !unchanged && (
          <button className="button" onClick={draft.discard}>
            Back to the chosen ones
          </button>
        )}
        {rig.choice && (
          <a className="button" href={`/api/v1/rigs/${rig.slug}/parts.pdf?unit=${unit}`} download>
            Parts sheet (PDF)
          </a>
        )}
      </div>
      <Refused error={save.error} />
      {rig.choice && <Fitted rig={rig} />}
      {trial.data && !trial.error && trial.data.figures.length > 0 && (
        <section style={{ marginTop: 18, maxWidth: 560 }}>
          <h2>Figures</h2>
          <Figures figures={trial.data.figures} />
        </section>
      )}
      <ReasonOfPlace>
        <h2>Two schools{watches ? '' : ' of sizing'}</h2>
        {watches ? (
          <p>They differ in the colours of wires and probes, and in the breaker before the instrument.</p>
        ) : (
          <p>IEC: load ≤ breaker ≤ conductor. NEC: breaker and conductor at least 125 % of a load that runs for hours.</p>
        )}
        <p>Both are from memory of the codes and are guidance only.</p>
        <div className="caution">
          <strong>Mains work: local code, licensed person.</strong> Disconnect, lock off and prove dead before touching any of these parts.
        </div>
      </ReasonOfPlace>
    </>
  )
}
