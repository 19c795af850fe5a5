import { LastingField } from '../shared/LastingField'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf } from '../shared/states'
import { another, KIND_WORDS, ofKind, type Profile, type Segment, without } from './data'
import { type Per, RateField } from './RateField'
import { useWords } from '../units/fields'

interface Props {
  profile: Profile
  at: number
  per: Per
  alarms: string[]
  error: unknown
  onChoose: (segment: number) => void
  onChange: (profile: Profile) => void
}

const EVENTS: [Segment['events'][number], string][] = [
  ['fan', 'fan'],
  ['vent', 'vent'],
  ['buzzer', 'buzzer'],
  ['spare', 'spare output'],
]

/** The segment in hand, exactly: kind, temperature, rate or time, what waits, what is switched, what is said. */
export function SegmentForm({ profile, at, per, alarms, error, onChoose, onChange }: Props) {
  const { label } = useWords()
  const s = profile.segments[at]
  if (!s) return null
  const last = at === profile.segments.length - 1
  const put = (segment: Segment) => onChange({ ...profile, segments: profile.segments.map((old, i) => (i === at ? segment : old)) })
  const set = (part: Partial<Segment>) => put({ ...s, ...part })
  const wrong = (name: string) => problemOf(error, `segments[${at}].${name}`)
  const timed = s.kind === 'ramp_time' || s.kind === 'soak'
  const moves = s.kind === 'ramp_rate' || s.kind === 'ramp_time' || s.kind === 'step'
  const waits = s.kind === 'ramp_rate' || timed
  const loop = profile.loops.findIndex((l) => l.last - 1 === at)
  return (
    <section className="segment-form" aria-label={`Segment ${at + 1}`}>
      <h2>Segment {at + 1}</h2>
      <div className="grid3">
        <SelectField
          label={label('segments.kind')}
          value={s.kind}
          options={last ? KIND_WORDS.filter(([k]) => k === 'end') : KIND_WORDS.filter(([k]) => k !== 'end')}
          problem={wrong('kind')}
          onChange={(kind) => put(ofKind(profile, at, kind))}
        />
        {(moves || (s.kind === 'wait' && s.wait !== 'person')) && (
          <NumberField
            key={`target ${at}`}
            label={label('segments.target_c')}
            kind="temperature"
            value={s.target_c}
            problem={wrong('target_c')}
            onChange={(target_c) => set({ target_c })}
          />
        )}
        {s.kind === 'ramp_rate' && (
          <RateField
            key={`rate ${at}`}
            label={label('segments.rate_c_per_min')}
            per={per}
            value={s.rate_c_per_min}
            problem={wrong('rate_c_per_min')}
            onChange={(rate_c_per_min) => set({ rate_c_per_min })}
          />
        )}
        {timed && (
          <LastingField
            key={`time ${at}`}
            label={s.kind === 'soak' ? 'For' : 'In'}
            value={s.time_s}
            problem={wrong('time_s')}
            onChange={(time_s) => set({ time_s })}
          />
        )}
        {s.kind === 'wait' && (
          <SelectField
            label="Until"
            value={s.wait ?? 'person'}
            options={[
              ['person', 'somebody goes on'],
              ['risen', 'the reading has risen to'],
              ['fallen', 'the reading has fallen to'],
            ]}
            onChange={(wait) => set({ wait, target_c: wait === 'person' ? null : (s.target_c ?? 60) })}
          />
        )}
        {s.kind === 'end' && (
          <SelectField
            label={label('segments.end')}
            value={s.end ?? 'off'}
            options={[
              ['off', 'heat off'],
              ['hold', 'hold the last set-point'],
            ]}
            problem={wrong('end')}
            onChange={(end) => set({ end })}
          />
        )}
        {waits && (
          <SelectField
            label="If the load is behind"
            value={s.holdback ? s.holdback.side : 'no'}
            options={[
              ['no', 'time runs on'],
              ['below', 'wait while it is below'],
              ['above', 'wait while it is above'],
              ['either', 'wait on either side'],
            ]}
            onChange={(side) => set({ holdback: side === 'no' ? null : { band_c: s.holdback?.band_c ?? 3, side } })}
          />
        )}
        {waits && s.holdback && (
          <NumberField
            key={`band ${at}`}
            label={label('holdback.band_c')}
            kind="temperature_difference"
            value={s.holdback.band_c}
            problem={wrong('holdback.band_c')}
            onChange={(band_c) => s.holdback && set({ holdback: { ...s.holdback, band_c: band_c ?? NaN } })}
          />
        )}
        {s.kind !== 'end' && (
          <NumberField
            key={`set ${at}`}
            label={label('segments.pid_set')}
            value={s.pid_set}
            problem={wrong('pid_set')}
            onChange={(n) => set({ pid_set: n == null ? NaN : Math.round(n) })}
          />
        )}
        <TextField label={label('segments.says')} value={s.says} problem={wrong('says')} onChange={(says) => set({ says })} />
      </div>
      <div className="row ticks">
        <span className="dim">Switched on in it:</span>
        {EVENTS.map(([event, words]) => (
          <label key={event} className="tick">
            <input
              type="checkbox"
              checked={s.events.includes(event)}
              onChange={(e) => set({ events: e.target.checked ? [...s.events, event] : s.events.filter((o) => o !== event) })}
            />{' '}
            {words}
          </label>
        ))}
      </div>
      {alarms.length > 0 && s.kind !== 'end' && (
        <div className="row ticks">
          <span className="dim">Alarms that hold in it:</span>
          {alarms.map((name) => {
            const held = s.alarms === null || s.alarms.includes(name)
            return (
              <label key={name} className="tick">
                <input
                  type="checkbox"
                  checked={held}
                  onChange={(e) => {
                    const now = (s.alarms ?? alarms).filter((o) => o !== name)
                    const next = e.target.checked ? [...now, name] : now
                    set({ alarms: alarms.every((a) => next.includes(a)) ? null : next })
                  }}
                />{' '}
                {name}
              </label>
            )
          })}
        </div>
      )}
      <div className="row">
        <button className="button" disabled={last} onClick={() => (onChange(another(profile, at)), onChoose(at + 1))}>
          Another one after it
        </button>
        <button
          className="button"
          disabled={last || profile.segments.length <= 2}
          onClick={() => (onChange(without(profile, at)), onChoose(Math.max(at - 1, 0)))}
        >
          Take it out
        </button>
        {!last && loop < 0 && (
          <button
            className="button"
            onClick={() => onChange({ ...profile, loops: [...profile.loops, { first: 1, last: at + 1, times: 2 }] })}
          >
            Repeat up to here
          </button>
        )}
      </div>
      {loop >= 0 && (
        <div className="row loop">
          <NumberField
            label={label('loops.first')}
            value={profile.loops[loop]!.first}
            problem={problemOf(error, `loops[${loop}].first`)}
            onChange={(first) => first != null && onChange(withLoop(profile, loop, { first: Math.round(first) }))}
          />
          <NumberField
            label={label('loops.times')}
            value={profile.loops[loop]!.times}
            problem={problemOf(error, `loops[${loop}].times`)}
            onChange={(times) => times != null && onChange(withLoop(profile, loop, { times: Math.round(times) }))}
          />
          <button className="button" onClick={() => onChange({ ...profile, loops: profile.loops.filter((_, i) => i !== loop) })}>
            Do not repeat
          </button>
        </div>
      )}
    </section>
  )
}

const withLoop = (profile: Profile, at: number, part: Partial<Profile['loops'][number]>): Profile => ({
  ...profile,
  loops: profile.loops.map((l, i) => (i === at ? { ...l, ...part } : l)),
})
