import { api, need, type Finding, type Rig } from '../../api/client'
import { useChange } from '../../api/hooks'
import { useKept } from '../../api/kept'
import { TextField } from '../../shared/fields'
import { problemOf, Refused } from '../../shared/states'
import { usePreferences } from '../../shell/preferences'
import { said } from '../../units/message'
import type { List } from '../edits'

interface Props {
  rig: Rig
  wiring: List
  pressed: Finding | null
}

/** Findings somebody lives with, each with its reason; and the one pressed can become one of them. */
export function LivedWith({ rig, wiring, pressed }: Props) {
  const { unit } = usePreferences()
  const [reason, setReason] = useKept(`reason ${rig.slug}`, '')
  const params = { path: { slug: rig.slug } }
  const accept = useChange(rig.slug, async (finding: Finding) => {
    await need(
      api.POST('/api/v1/rigs/{slug}/wiring/accepted', {
        params,
        body: { revision: rig.revision, rule: finding.rule, subjects: finding.subjects, reason },
      }),
    )
    setReason('')
  })
  const withdraw = useChange(rig.slug, (id: number) =>
    need(
      api.DELETE('/api/v1/rigs/{slug}/wiring/accepted/{number}', {
        params: { path: { slug: rig.slug, number: id }, query: { revision: rig.revision } },
      }),
    ),
  )
  const open = pressed && wiring.findings.find((f) => f.rule === pressed.rule && f.subjects.join() === pressed.subjects.join())
  if (!open && !wiring.accepted.length) return null
  return (
    <section className="lived" aria-label="Accepted findings">
      {wiring.accepted.map((a) => (
        <p key={a.id}>
          <span className="badge advice">accepted</span> <b>{a.title ? said(a.title, unit) : `${a.rule}, no longer found`}</b>: {a.reason}{' '}
          <span className="dim">({a.who})</span>{' '}
          <button className="button quiet" onClick={() => withdraw.mutate(a.id)}>
            Withdraw
          </button>
        </p>
      ))}
      {open && (
        <div className="row" style={{ alignItems: 'end' }}>
          <span style={{ width: 420 }}>
            <TextField
              label={`Live with “${said(open.title, unit)}”, because`}
              value={reason}
              onChange={setReason}
              problem={problemOf(accept.error, 'reason')}
            />
          </span>
          <button className="button" disabled={!reason.trim() || accept.isPending} onClick={() => accept.mutate(open)}>
            Accept it
          </button>
        </div>
      )}
      <Refused error={withdraw.error} />
    </section>
  )
}
