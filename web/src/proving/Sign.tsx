import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { TextField } from '../shared/fields'
import { Said } from '../shared/Said'
import { problemOf, Refused } from '../shared/states'
import { when } from '../shared/when'
import { useWords } from '../units/fields'

/** A name under a stage, or what stands against it. */
export function Sign({ rig, stage }: { rig: Rig; stage: Schemas['ProvingStageView'] }) {
  const { label } = useWords()
  const [why, setWhy, sent] = useKept(`sign ${rig.slug} ${stage.number}`, '')
  const against = [...stage.before, ...stage.against]
  const sign = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/proving/stages', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, stage: stage.number, why },
      }),
    ),
  )
  if (stage.signed)
    return (
      <p className="signed">
        <span className="badge fine">signed</span> {stage.signed.who}, {when(stage.signed.at)}
        {stage.signed.why && `: although, because ${stage.signed.why}`}
      </p>
    )
  const voided = stage.steps.some((s) => s.state === 'void')
  return (
    <div className="sign stack">
      {against.length > 0 && (
        <>
          <p>Before a name may stand under this stage:</p>
          <ul>
            {against.map((a) => (
              <li key={a}>
                <Said>{a}</Said>
              </li>
            ))}
          </ul>
        </>
      )}
      {against.length > 0 && !voided && !stage.waits && (
        <details>
          <summary>Sign it all the same</summary>
          <TextField
            label={label('why')}
            value={why}
            onChange={setWhy}
            hint="it stays on the sheet, under your name"
            problem={problemOf(sign.error, 'why')}
          />
        </details>
      )}
      <Refused error={sign.error} />
      <button className="button" disabled={sign.isPending || voided} onClick={() => sign.mutate(undefined, { onSuccess: () => sent(why) })}>
        Sign stage {stage.number}
      </button>
    </div>
  )
}
