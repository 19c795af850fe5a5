import { useKept } from '../api/kept'
import type { Quantity, Rig, Schemas } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { useEdits } from './edits'

/** What one part is rated for; kept only where it differs. */
export function PartRatings({ rig, part }: { rig: Rig; part: Schemas['PartView'] }) {
  const { rate, removePart } = useEdits(rig)
  const [draft, setDraft] = useKept<Record<string, unknown>>(`ratings ${rig.slug} ${part.name}`, {})
  const value = (r: Schemas['Rating']) => draft[r.name] ?? part.ratings[r.name] ?? r.usual
  return (
    <div className="part-ratings">
      {part.asks.map((r) =>
        r.kind ? (
          <NumberField key={r.name} label={r.label} kind={r.kind as Quantity} value={Number(value(r))} onChange={(v) => setDraft({ ...draft, [r.name]: v })} problem={problemOf(rate.error, `ratings.${r.name}`)} />
        ) : (
          <SelectField key={r.name} label={r.label} value={String(value(r))} options={r.options.map((o) => [o, o.replace(/_/g, ' ')] as const)} onChange={(v) => setDraft({ ...draft, [r.name]: v })} problem={problemOf(rate.error, `ratings.${r.name}`)} />
        ),
      )}
      <div className="row">
        <button className="button main" disabled={!Object.keys(draft).length || rate.isPending} onClick={() => rate.mutate({ name: part.name, ratings: draft }, { onSuccess: () => setDraft({}) })}>
          Rate it so
        </button>
        <button className="button warn" disabled={removePart.isPending} onClick={() => removePart.mutate(part.name)}>
          Remove {part.name} and its wires
        </button>
      </div>
      <Refused error={removePart.error} />
    </div>
  )
}
