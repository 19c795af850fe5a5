import { NumberField, SelectField } from '../shared/fields'
import { problemOf } from '../shared/states'
import { fixed, say } from '../units/quantity'
import { usePreferences } from '../shell/preferences'
import type { Forecast, Profile, ProfilesView, Tried } from './data'
import { LastingField } from '../shared/LastingField'
import { useWords } from '../units/fields'

type Load = NonNullable<Tried['load']>

interface Props {
  view: ProfilesView
  profile: Profile
  tried: Tried
  forecast: Forecast
  error: unknown
  onTry: (tried: Tried) => void
  onChange: (profile: Profile) => void
}

const NEW: Load = { stuff: 'borosilicate', shape: 'slab', half_mm: 10, mass_kg: 2, exchange: null }

/** What is in it, where it starts, when, at what price, and what a power cut does. */
export function Conditions({ view, profile, tried, forecast, error, onTry, onChange }: Props) {
  const { label } = useWords()
  const { unit } = usePreferences()
  const set = (part: Partial<Tried>) => onTry({ ...tried, ...part })
  const power = profile.after_power
  const after = (part: Partial<Profile['after_power']>) => onChange({ ...profile, after_power: { ...power, ...part } })
  return (
    <div className="stack">
      <LoadForm view={view} title="The load" load={tried.load ?? null} error={error} onChange={(load) => set({ load })} />
      <LoadForm
        view={view}
        title="Compared with"
        load={tried.other_load ?? null}
        error={error}
        onChange={(other_load) => set({ other_load })}
      />
      {forecast.other && (
        <p className="profile-answer">
          The other load: {say(forecast.other.length_s, 'time', unit)} and {fixed(forecast.other.energy_kwh, 1)} kWh, its core up to{' '}
          {say(Math.abs(forecast.other.core_lag_c), 'temperature_difference', unit)} off.
        </p>
      )}
      <h2>Start</h2>
      <div className="grid3">
        <SelectField
          label="The first ramp begins at"
          value={profile.start}
          options={[
            ['reading', 'the reading of that moment'],
            ['room', 'the room'],
            ['value', 'a temperature of its own'],
          ]}
          onChange={(start) => onChange({ ...profile, start, start_c: start === 'value' ? (profile.start_c ?? view.begins_c) : null })}
        />
        {profile.start === 'value' && (
          <NumberField
            label={label('start_c')}
            kind="temperature"
            value={profile.start_c}
            problem={problemOf(error, 'start_c')}
            onChange={(start_c) => onChange({ ...profile, start_c })}
          />
        )}
        <NumberField
          label={label('begins_c')}
          kind="temperature"
          value={tried.begins_c ?? view.begins_c}
          problem={problemOf(error, 'begins_c')}
          onChange={(begins_c) => set({ begins_c })}
        />
        <SelectField
          label="By the clock"
          value={tried.finish_h == null ? 'start' : 'finish'}
          options={[
            ['start', 'it starts at'],
            ['finish', 'it is to be over at'],
          ]}
          onChange={(by) => set(by === 'start' ? { finish_h: null } : { finish_h: 7 })}
        />
        <NumberField
          label={`${label(tried.finish_h == null ? 'begins_h' : 'finish_h')}, 13.5 is half past one`}
          value={tried.finish_h ?? tried.begins_h ?? 8}
          problem={problemOf(error, tried.finish_h == null ? 'begins_h' : 'finish_h')}
          onChange={(h) => h != null && set(tried.finish_h == null ? { begins_h: h } : { finish_h: h })}
        />
      </div>
      <h2>Price</h2>
      <div className="grid3">
        <NumberField
          label={label('tariff.day')}
          value={tried.tariff?.day ?? null}
          problem={problemOf(error, 'tariff.day')}
          onChange={(day) => set({ tariff: day == null ? null : { night: day, night_from_h: 22, night_to_h: 6, ...tried.tariff, day } })}
        />
        {tried.tariff && (
          <>
            <NumberField
              label={label('tariff.night')}
              value={tried.tariff.night}
              problem={problemOf(error, 'tariff.night')}
              onChange={(night) => night != null && set({ tariff: { ...tried.tariff!, night } })}
            />
            <NumberField
              label={label('tariff.night_from_h')}
              value={tried.tariff.night_from_h ?? 22}
              problem={problemOf(error, 'tariff.night_from_h')}
              onChange={(h) => h != null && set({ tariff: { ...tried.tariff!, night_from_h: h } })}
            />
            <NumberField
              label={label('tariff.night_to_h')}
              value={tried.tariff.night_to_h ?? 6}
              problem={problemOf(error, 'tariff.night_to_h')}
              onChange={(h) => h != null && set({ tariff: { ...tried.tariff!, night_to_h: h } })}
            />
          </>
        )}
      </div>
      <h2>After a power cut</h2>
      <div className="grid3">
        <NumberField
          label={label('after_power.resume_c')}
          kind="temperature_difference"
          value={power.resume_c}
          problem={problemOf(error, 'after_power.resume_c')}
          onChange={(resume_c) => after({ resume_c: resume_c ?? NaN })}
        />
        <NumberField
          label={label('after_power.ramp_back_c')}
          kind="temperature_difference"
          value={power.ramp_back_c}
          onChange={(ramp_back_c) => after({ ramp_back_c: ramp_back_c ?? NaN })}
        />
        <LastingField
          label={label('after_power.longest_s')}
          value={power.longest_s}
          problem={problemOf(error, 'after_power.longest_s')}
          onChange={(longest_s) => after({ longest_s: longest_s ?? NaN })}
        />
        <SelectField
          label="else"
          value={power.beyond}
          options={[
            ['abort', 'it ends, heat off'],
            ['hold', 'it holds where it is'],
          ]}
          onChange={(beyond) => after({ beyond })}
        />
      </div>
    </div>
  )
}

function LoadForm({
  view,
  title,
  load,
  error,
  onChange,
}: {
  view: ProfilesView
  title: string
  load: Load | null
  error: unknown
  onChange: (load: Load | null) => void
}) {
  const { label } = useWords()
  const set = (part: Partial<Load>) => onChange({ ...(load ?? NEW), ...part })
  return (
    <section aria-label={title}>
      <h2>{title}</h2>
      <div className="grid3">
        <SelectField
          label={`${title}: made of`}
          value={load?.stuff ?? ''}
          options={[['', 'nothing of weight'], ...view.stuff.map((s) => [s.key, s.name] as [string, string])]}
          onChange={(stuff) => (stuff ? set({ stuff }) : onChange(null))}
        />
        {load && (
          <>
            <SelectField
              label="shaped as"
              value={load.shape}
              options={[
                ['slab', 'a slab, heated from both faces'],
                ['cylinder', 'a long round bar'],
                ['sphere', 'a ball'],
              ]}
              onChange={(shape) => set({ shape })}
            />
            <NumberField
              label={load.shape === 'slab' ? 'half as thick as' : 'radius'}
              kind="millimetres"
              value={load.half_mm}
              problem={problemOf(error, 'load.half_mm')}
              onChange={(half_mm) => set({ half_mm: half_mm ?? NaN })}
            />
            <NumberField
              label={label('load.mass_kg')}
              kind="mass"
              value={load.mass_kg}
              problem={problemOf(error, 'load.mass_kg')}
              onChange={(mass_kg) => set({ mass_kg: mass_kg ?? NaN })}
            />
          </>
        )}
      </div>
    </section>
  )
}
