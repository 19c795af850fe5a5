import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useLive } from '../api/live'
import { arm as armLink, armedHere, THIS_WINDOW } from '../api/thisWindow'
import { Fig } from '../shared/Fig'
import '../shared/going.css'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'
import { Temperature } from '../shared/Temperature'
import { capital } from '../units/quantity'

type Now = NonNullable<Schemas['DrivenView']['now']>

const LOOKS_MS = 1500
/** How often while no test runs. */
const RESTS_MS = 10_000
const UNDER_WAY: Record<string, string> = {
  starting: 'is being begun',
  swinging: 'swings',
  returning: 'is over: what was set for it is put back',
}

export const underWay = (now: Now) => now.standing in UNDER_WAY

/** The test made by Rellux over the link, in the controller's own on/off mode; it ends by itself, and the old numbers come back. Or the
 *  controller tunes itself, where it can be told to, and Rellux watches. */
export function Driven({ rig, setpoint }: { rig: Rig; setpoint: number }) {
  const params = { path: { slug: rig.slug } }
  const live = useLive(rig.slug)
  const [stays, setStays] = useState(false)
  const query = useQuery({
    queryKey: ['of', rig.slug, 'relay test', setpoint],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/tuning/relay/test', { params: { ...params, query: { setpoint_c: setpoint } } })),
    refetchInterval: ({ state }) => (state.data?.now && underWay(state.data.now) ? LOOKS_MS : RESTS_MS),
    placeholderData: (before) => before,
    retry: false,
  })
  const start = useChange(rig.slug, (tunes_itself: boolean) =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/relay/test', {
        params,
        body: { window: THIS_WINDOW, setpoint_c: setpoint, stays, tunes_itself },
      }),
    ),
  )
  const arm = useChange(rig.slug, () => need(armLink(rig.slug, true)))
  if (query.error) return <Refused error={query.error} />
  if (!query.data) return <p className="wait">Looking at the link…</p>
  const { now, cannot, heed, left_alone, tunes_itself, own_cannot, own_left_alone } = query.data
  if (now && underWay(now)) return <UnderWay rig={rig} now={now} reading={live?.reading_c ?? null} />
  const armed = armedHere(live)
  const may = cannot.length === 0 || (tunes_itself && own_cannot.length === 0)
  return (
    <section className="stack" aria-label="Made over the link">
      <h3>Let Rellux make it over the link</h3>
      {now && <Last rig={rig} now={now} />}
      <p>
        The controller switches by itself, in its on/off mode; Rellux watches, ends it when two cycles are alike, and puts the old numbers
        back. <Said>{left_alone}</Said>
      </p>
      <InItsWay label="What stands in its way" cannot={cannot} heed={heed} />
      {tunes_itself && (
        <>
          <p>
            Or it tunes itself: Rellux begins it, watches the reading, and says what it found. <Said>{own_left_alone}</Said>
          </p>
          <InItsWay label="What stands in the way of that" cannot={own_cannot} heed={[]} />
        </>
      )}
      <label className="tick">
        <input type="checkbox" checked={stays} onChange={(e) => setStays(e.target.checked)} /> I stay with it, a hand near the main switch;
        the product is out and the door is shut
      </label>
      <Refused error={start.error ?? arm.error} />
      <div className="row">
        {!armed && (
          <button type="button" className="button" disabled={!may || arm.isPending} onClick={() => arm.mutate(undefined)}>
            Arm writing for 10 minutes
          </button>
        )}
        <button
          type="button"
          className="button main"
          disabled={!armed || !stays || cannot.length > 0 || start.isPending}
          onClick={() => start.mutate(false)}
        >
          {start.isPending ? 'Beginning…' : 'Make the test'}
        </button>
        {tunes_itself && (
          <button
            type="button"
            className="button"
            disabled={!armed || !stays || own_cannot.length > 0 || start.isPending}
            onClick={() => start.mutate(true)}
          >
            Let it tune itself
          </button>
        )}
      </div>
    </section>
  )
}

function InItsWay({ label, cannot, heed }: { label: string; cannot: string[]; heed: string[] }) {
  if (!cannot.length && !heed.length) return null
  return (
    <ul className="losses cannot" aria-label={label}>
      {cannot.map((c) => (
        <li key={c}>
          <Said>{c}</Said>
        </li>
      ))}
      {heed.map((h) => (
        <li key={h}>
          Stay with it all the more: <Said>{h}</Said>
        </li>
      ))}
    </ul>
  )
}

function UnderWay({ rig, now, reading }: { rig: Rig; now: Now; reading: number | null }) {
  const end = useChange(rig.slug, () =>
    need(api.POST('/api/v1/rigs/{slug}/tuning/relay/test/end', { params: { path: { slug: rig.slug } } })),
  )
  return (
    <section className="stack going" role="status" aria-label="Made over the link">
      <p className="going-big">
        <b>{now.tunes_itself ? 'Its own auto-tune' : 'The relay test'}</b> {UNDER_WAY[now.standing]}
        {now.says && (
          <>
            {' '}
            (<Said>{now.says}</Said>)
          </>
        )}
      </p>
      <p className="going-figures">
        <span>
          reading <Temperature celsius={reading} tinted />
        </span>
        <span>
          round <Temperature celsius={now.setpoint_c} />
        </span>
        <span>
          heat goes off at <Temperature celsius={now.highest_c} />
        </span>
      </p>
      <p className="dim">
        Begun by {now.who}. It ends when {now.tunes_itself ? 'the controller says so' : 'two cycles are alike'}; the run is being recorded.
      </p>
      <Refused error={end.error} />
      <div className="row">
        <button
          type="button"
          className="button"
          disabled={end.isPending || now.standing === 'returning'}
          onClick={() => end.mutate(undefined)}
        >
          End it, old numbers back
        </button>
      </div>
    </section>
  )
}

function Last({ rig, now }: { rig: Rig; now: Now }) {
  const done = now.standing === 'done'
  return (
    <>
      <p>
        The last one {done ? 'came to its end' : 'was broken off'}: <Said>{now.says}</Said>
        {now.heat_is_off && <b>. The heat is off.</b>}
      </p>
      {done && now.tunes_itself && (
        <p className="dim">
          It holds those now: take them over as found under <Link to={`/rigs/${rig.slug}/setup`}>Set-up</Link>, and they stand among the
          candidates.
        </p>
      )}
      {now.figures.length > 0 && (
        <>
          <ul>
            {now.figures.map((f) => (
              <li key={f.name}>
                <Said>{capital(f.name)}</Said> <Fig figure={f} />: <Said>{f.reason}</Said>
              </li>
            ))}
          </ul>
          <p className="dim">
            What it shows of the process is in <Link to={`/rigs/${rig.slug}/runs`}>its run</Link>: learn from it above, and the candidates
            follow.
          </p>
        </>
      )}
    </>
  )
}
