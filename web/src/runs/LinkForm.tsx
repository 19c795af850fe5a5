import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { NumberField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { useWords } from '../units/fields'
import { Commands } from './Commands'
import { type KnownPlace, NEW_PLACE, PlaceFields, placeOf, sent } from './PlaceFields'

interface Props {
  rig: Rig
  link: Schemas['LinkView'] | null
  onDone: () => void
}

type Draft = Schemas['LinkInputRequest'] & KnownPlace

/** Where the controller is. */
export function LinkForm({ rig, link, onDone }: Props) {
  const [draft, setDraft, begin] = useKept<Draft>(`link ${rig.slug}`, {
    ...(link ? placeOf(link) : NEW_PLACE),
    speed: link?.speed ?? 20,
    commands: link?.commands ?? null,
  })
  const { label } = useWords()
  const set = (part: Partial<Draft>) => setDraft({ ...draft, ...part })
  const save = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/link', {
        params: { path: { slug: rig.slug } },
        body: { ...sent(draft), ...(draft.stand_in && draft.way === 'tcp' && { unit_id: 1, poll_s: 0.1 }) },
      }),
    ),
  )
  if (!rig.choice)
    return (
      <div className="empty">
        <p>Choose the parts first; the link depends on them.</p>
        <Link className="button" to={`/rigs/${rig.slug}/parts`}>
          Parts
        </Link>
      </div>
    )
  const problem = (field: string) => problemOf(save.error, field)
  return (
    <section className="stack" style={{ margin: '12px 0' }} aria-label="Link">
      <PlaceFields what="Controller" place={draft} onChange={set} problem={problem} />
      {link?.link_loss && link.register_map === draft.register_map && <p className="dim">When nobody asks any more: {link.link_loss}</p>}
      {draft.stand_in && (
        <>
          <p className="dim">
            Rellux starts a controller with a rig like yours behind it, and talks to it as to a real one
            {draft.device ? ` over the simulated port ${draft.device}` : ' over Modbus TCP'}.
          </p>
          <div style={{ maxWidth: 220 }}>
            <NumberField
              label={label('speed')}
              value={draft.speed ?? 1}
              onChange={(speed) => set({ speed: speed ?? 0 })}
              problem={problem('speed')}
            />
          </div>
        </>
      )}
      {draft.way === 'text' && draft.line_format && (
        <Commands commands={draft.commands ?? null} onChange={(commands) => set({ commands })} problem={problem} />
      )}
      <div className="row">
        <button
          className="button main"
          disabled={save.isPending}
          onClick={() => save.mutate(undefined, { onSuccess: () => (begin(draft), onDone()) })}
        >
          {draft.stand_in ? 'Start it' : 'Link'}
        </button>
        {link && (
          <button className="button" onClick={onDone}>
            Leave it
          </button>
        )}
      </div>
      <Refused error={save.error} />
    </section>
  )
}
