import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Quantity, type Rig, type Schemas } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { wordsOf } from '../shared/effect'
import { Said } from '../shared/Said'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { say } from '../units/quantity'
import type { LadderView, Plan } from './plan'

interface Props {
  rig: Rig
  plan: Plan
  offered: Schemas['Offered']
  ladder: LadderView
  onChange: (plan: Plan) => void
  error: unknown
}

/** What acts without the controller: the independent limiter and the thermal fuse; and what a lost reading does. */
export function Devices({ rig, plan, offered, ladder, onChange, error }: Props) {
  const { unit } = usePreferences()
  const { choices, label } = useWords()
  const { limiter, fuse, policy } = plan
  const cools = rig.purpose.effect === 'cools'
  const number = (label: string, kind: Quantity | undefined, value: number, field: string, change: (v: number) => void, hint?: string) => (
    <NumberField
      label={label}
      kind={kind}
      value={value}
      onChange={(v) => v != null && change(v)}
      problem={problemOf(error, field)}
      hint={hint}
    />
  )
  const setLimiter = (part: Partial<NonNullable<typeof limiter>>) => limiter && onChange({ ...plan, limiter: { ...limiter, ...part } })
  const setFuse = (part: Partial<NonNullable<typeof fuse>>) => fuse && onChange({ ...plan, fuse: { ...fuse, ...part } })
  const setLight = (part: Partial<NonNullable<Plan['light']>>) => plan.light && onChange({ ...plan, light: { ...plan.light, ...part } })
  const setPolicy = (part: Partial<typeof policy>) => onChange({ ...plan, policy: { ...policy, ...part } })
  return (
    <section className="stack" aria-label="Limiter, fuse and lost reading">
      <h2>Independent limiter</h2>
      {limiter ? (
        <>
          <div className="guardgrid">
            {number('Trips at', 'temperature', limiter.trip_c, 'limiter.trip_c', (trip_c) => setLimiter({ trip_c }))}
            {number('Hysteresis', 'temperature_difference', limiter.hysteresis_c, 'limiter.hysteresis_c', (hysteresis_c) =>
              setLimiter({ hysteresis_c }),
            )}
            <SelectField
              label="Its own sensor"
              value={limiter.sensor}
              options={choices('sensor')}
              onChange={(sensor) => setLimiter({ sensor })}
              problem={problemOf(error, 'limiter.sensor')}
            />
            {number(
              'Its sensor follows in',
              'time',
              limiter.lag_s,
              'limiter.lag_s',
              (lag_s) => setLimiter({ lag_s }),
              'to 63 %, at its place',
            )}
            {number('Contactor opens in', 'time', limiter.relay_s, 'limiter.relay_s', (relay_s) => setLimiter({ relay_s }))}
            <SelectField
              label={label('limiter.reset')}
              value={limiter.reset}
              options={choices('limiter.reset')}
              onChange={(reset) => setLimiter({ reset: reset as typeof limiter.reset })}
            />
            <SelectField
              label={label('limiter.trips_on_break')}
              value={String(limiter.trips_on_break)}
              options={choices('limiter.trips_on_break')}
              onChange={(v) => setLimiter({ trips_on_break: v === 'true' })}
            />
          </div>
          <div>
            <button className="button quiet" onClick={() => onChange({ ...plan, limiter: null })}>
              No limiter
            </button>
          </div>
        </>
      ) : (
        <div className="row">
          <span>None is planned.</span>
          <button className="button" onClick={() => onChange({ ...plan, limiter: offered.limiter })}>
            Plan one
          </button>
        </div>
      )}
      {!cools && (
        <>
          <h2>The controller’s own maximum</h2>
          <div className="guardgrid">
            <NumberField
              label={label('maximum_c')}
              kind="temperature"
              value={plan.maximum_c ?? null}
              onChange={(maximum_c) => onChange({ ...plan, maximum_c })}
              problem={problemOf(error, 'maximum_c')}
              hint="empty where it has none"
            />
          </div>
          <p className="dim small">By the same sensor and the same switch as the control: where one of these fails, it fails too.</p>
        </>
      )}
      {!cools && <h2>Thermal fuse</h2>}
      {!cools && <FuseChooser rig={rig} plan={plan} onChange={onChange} />}
      {fuse && (
        <div className="guardgrid">
          {number(
            'Opens at',
            'temperature',
            fuse.rating_c,
            'fuse.rating_c',
            (rating_c) => setFuse({ rating_c }),
            'and up to {10 Δ°C} below',
          )}
          {number('Holds for good', 'temperature', fuse.holding_c, 'fuse.holding_c', (holding_c) => setFuse({ holding_c }))}
          {number('Its place, at work', 'temperature', fuse.place_c, 'fuse.place_c', (place_c) => setFuse({ place_c }))}
          {number('It follows in', 'time', fuse.lag_s, 'fuse.lag_s', (lag_s) => setFuse({ lag_s }))}
          <button className="button quiet" onClick={() => onChange({ ...plan, fuse: null })}>
            No fuse
          </button>
        </div>
      )}
      <h2>A reading that is lost</h2>
      <div className="guardgrid">
        <SelectField
          label="The run"
          value={policy.school}
          options={[
            ['stop', 'stops at once'],
            ['ride_through', `waits for it, the ${wordsOf(rig.purpose.effect).effect} off`],
          ]}
          onChange={(school) => setPolicy({ school, hold_s: school === 'stop' ? 0 : Math.floor(ladder.usual_hold_s) })}
        />
        {policy.school === 'ride_through' && (
          <>
            {number('Waits for', 'time', policy.hold_s, 'policy.hold_s', (hold_s) => setPolicy({ hold_s }))}
            {number(
              'Believed up to',
              'temperature_rate',
              policy.rate_c_per_min,
              'policy.rate_c_per_min',
              (rate) => setPolicy({ rate_c_per_min: rate }),
              'of change when it is back',
            )}
          </>
        )}
        <NumberField
          label={label('prove_days')}
          value={plan.prove_days}
          onChange={(v) => v != null && onChange({ ...plan, prove_days: Math.round(v) })}
          problem={problemOf(error, 'prove_days')}
        />
      </div>
      <p className="dim small">
        Full power would eat the margin in {say(ladder.longest_hold_s, 'time', unit)} at the bad edge: longer is never ridden through.
        Stopping at once is the safer school; waiting saves a load from a loose plug of half a second. Every fault is logged either way.
      </p>
      {!cools && (
        <>
          <h2>Status light</h2>
          {plan.light ? (
            <div className="guardgrid">
              {number('Cool below', 'temperature', plan.light.warm_c, 'light.warm_c', (warm_c) => setLight({ warm_c }))}
              {number('Hot from', 'temperature', plan.light.hot_c, 'light.hot_c', (hot_c) => setLight({ hot_c }))}
              {number('Hot for so long after it heated', 'time', plan.light.after_s, 'light.after_s', (after_s) => setLight({ after_s }))}
              <button className="button quiet" onClick={() => onChange({ ...plan, light: null })}>
                No light
              </button>
            </div>
          ) : (
            <div className="row">
              <span>None is planned.</span>
              <button className="button" onClick={() => onChange({ ...plan, light: offered.light })}>
                Plan one
              </button>
            </div>
          )}
          <p className="dim small">
            It says cool, warm or hot to touch by the reading, here and in the workshop; heated lately, or without a reading, it says hot.
            For a lamp at the rig set a free alarm contact of the controller to these values. It is a courtesy: bring the back of a hand
            near before you touch.
          </p>
        </>
      )}
    </section>
  )
}

/** Which rating fits at a place: asked by the temperature measured there. */
function FuseChooser({ rig, plan, onChange }: { rig: Rig; plan: Plan; onChange: (plan: Plan) => void }) {
  const { label } = useWords()
  const { unit } = usePreferences()
  const [place, setPlace] = useState<number | null>(plan.fuse?.place_c ?? null)
  const [lag, setLag] = useState(plan.fuse?.lag_s ?? 30)
  const ask = useMutation({
    mutationFn: () =>
      need(
        api.POST('/api/v1/rigs/{slug}/guarding/fuses', {
          params: { path: { slug: rig.slug } },
          body: { plan, place_c: place!, lag_s: lag },
        }),
      ),
  })
  return (
    <>
      <div className="guardgrid">
        <NumberField
          label={label('place_c')}
          kind="temperature"
          value={place}
          onChange={setPlace}
          problem={problemOf(ask.error, 'place_c')}
          hint="measured there"
        />
        <NumberField label="Follows in" kind="time" value={lag} onChange={(v) => v != null && setLag(v)} />
        <button className="button" disabled={place == null || ask.isPending} onClick={() => ask.mutate()}>
          Which ones fit?
        </button>
      </div>
      <Refused error={ask.error} />
      {ask.data && (
        <>
          {!ask.data.choices.some((c) => c.fits) && (
            <p>
              <b>None of the usual ones fits at this place.</b> A warmer or a cooler place has others.
            </p>
          )}
          <ul className="fuses">
            {ask.data.choices
              .filter((c) => c.fits || ask.data.choices.every((o) => !o.fits))
              .slice(0, 8)
              .map((c) => (
                <li key={c.fuse.rating_c}>
                  <button
                    className="button"
                    disabled={!c.fits}
                    onClick={() => onChange({ ...plan, fuse: c.fuse })}
                    aria-label={`Use ${say(c.fuse.rating_c, 'temperature', unit)}`}
                  >
                    {say(c.fuse.rating_c, 'temperature', unit)}
                  </button>{' '}
                  <Said>{c.why}</Said>
                </li>
              ))}
          </ul>
          <p className="small">{ask.data.mounting}</p>
        </>
      )}
    </>
  )
}
