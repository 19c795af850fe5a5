import { same, useDraft } from '../../api/kept'
import { Conflict } from '../../shared/Conflict'
import { Resumed } from '../../shared/Resumed'
import type { Quantity, Rig, Schemas } from '../../api/client'
import { NumberField, SelectField } from '../../shared/fields'
import { problemOf, Refused } from '../../shared/states'
import { useEdits } from '../edits'

/** What one part is rated for; kept only where it differs. */
export function PartRatings({ rig, part }: { rig: Rig; part: Schemas['PartView'] }) {
  const { rate, removePart } = useEdits(rig)
  const stored = Object.fromEntries(part.asks.map((r) => [r.name, part.ratings[r.name] ?? r.usual])) as Record<string, unknown>
  const draft = useDraft(rig.slug, `ratings ${part.name}`, stored, rig.revision)
  const typed = Object.fromEntries(Object.entries(draft.values).filter(([name, value]) => !same(value, stored[name])))
  const value = (r: Schemas['Rating']) => draft.values[r.name]
  return (
    <div className="part-ratings">
      <Resumed draft={draft} />
      <Conflict draft={draft} label={(name) => part.asks.find((r) => r.name === name)?.label ?? name} />
      {part.asks.map((r) =>
        r.kind ? (
          <NumberField
            key={r.name}
            label={r.label}
            kind={r.kind as Quantity}
            value={Number(value(r))}
            onChange={(v) => draft.set({ [r.name]: v })}
            problem={problemOf(rate.error, `ratings.${r.name}`)}
          />
        ) : (
          <SelectField
            key={r.name}
            label={r.label}
            value={String(value(r))}
            options={r.options.map((o) => [o, o.replace(/_/g, ' ')] as const)}
            onChange={(v) => draft.set({ [r.name]: v })}
            problem={problemOf(rate.error, `ratings.${r.name}`)}
          />
        ),
      )}
      <div className="row">
        <button
          className="button main"
          disabled={!draft.touched || !!draft.theirs || rate.isPending}
          onClick={() => rate.mutate({ name: part.name, ratings: typed }, { onSuccess: draft.discard })}
        >
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
