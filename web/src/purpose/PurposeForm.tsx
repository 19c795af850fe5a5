import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'
import { api, need, Refusal } from '../api/client'
import { focusFirstWrong, useKinds } from '../api/hooks'
import type { Draft as Typed } from '../api/kept'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { Conflict } from '../shared/Conflict'
import { Resumed } from '../shared/Resumed'
import { problemOf, Refused } from '../shared/states'
import { TemperatureScale } from '../shared/TemperatureScale'
import { ControlsFields } from './ControlsFields'
import { CoolerFields } from './CoolerFields'
import { FireFields, usualFire } from './FireFields'
import { HeaterSensorFields } from './HeaterSensorFields'
import { marksOf, windowOf } from './marks'
import { Materials } from './Materials'
import { OwnMainsFields } from './OwnMainsFields'
import { complete, type Draft, type PurposeInput, pumps } from './form'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { said } from '../units/message'
import { round } from '../units/quantity'
import './purpose.css'

type Effect = NonNullable<Draft['effect']>

const OTHER = 'another'
const NOTHING_BESIDE = { fire: null, cooler: null, heater_sensor: null }
const USUAL_HZ = [50, 60]

interface Props {
  form: Typed<Draft>
  action: string
  error: unknown
  busy: boolean
  onSave: (purpose: PurposeInput) => void
  /** Stands above the button. */
  children?: ReactNode
}

/** The rig's temperature window as a picture beside the few numbers that make it. */
export function PurposeForm({ form, action, error, busy, onSave, children }: Props) {
  const { label, choices } = useWords()
  const draft = form.values
  const { data: supplies = [] } = useQuery({
    queryKey: ['supplies'],
    queryFn: () => need(api.GET('/api/v1/supplies')),
    staleTime: Infinity,
  })
  const kinds = useKinds()
  const known = kinds.find((k) => k.kind === draft.kind)
  const { unit } = usePreferences()
  const watches = draft.effect === 'watches'
  const cools = draft.effect === 'cools'
  const offer = supplies.find((s) => s.supply === draft.supply)
  const proposed = (supply: Draft['supply']) => supplies.find((s) => s.supply === supply)?.proposed_v ?? null
  const [otherVoltage, setOtherVoltage] = useState(false)
  const [otherHz, setOtherHz] = useState(false)
  const usual = (supply: Draft['supply'], volts?: number) => {
    const of = supplies.find((s) => s.supply === supply)
    const v = volts ?? of?.proposed_v ?? draft.supply_voltage_v
    const hz = of?.usual_hz[of.voltages_v.indexOf(v!)]
    setOtherVoltage(false)
    const own = supply === 'dc' ? { own_mains: null } : {}
    return {
      ...own,
      supply,
      supply_voltage_v: v,
      ...(hz ? { frequency_hz: hz } : {}),
      ...(volts ? {} : { heater_voltage_v: watches ? 0 : v }),
    }
  }
  const effectFields = (effect: Draft['effect']): Partial<Draft> =>
    effect === 'watches'
      ? { effect, heater_power_w: 0, heater_voltage_v: 0, ...NOTHING_BESIDE, controls: null, own_mains: null }
      : { effect, heater_power_w: null, heater_voltage_v: draft.supply_voltage_v, ...NOTHING_BESIDE }
  const setEffect = (effect: Draft['effect']) =>
    form.set({ ...effectFields(effect), ...(effect === 'heats' && known?.fires === 'always' ? { fire: usualFire(known) } : {}) })
  const setKind = (kind: Draft['kind']) => {
    const to = kinds.find((k) => k.kind === kind)
    const can = to?.effects ?? []
    const effect = can.length && !can.includes(draft.effect ?? 'heats') ? can[0] : draft.effect
    const burns = effect === 'heats' && (to?.fires === 'always' || (to?.fires === 'may' && draft.fire))
    form.set({
      kind,
      ...(effect === draft.effect ? {} : effectFields(effect)),
      ...(!burns === !draft.fire ? {} : { ...NOTHING_BESIDE, fire: burns ? usualFire(to) : null, heater_power_w: null }),
    })
  }
  const [missing, setMissing] = useState<Refusal | null>(null)
  const set =
    <K extends keyof Draft>(key: K) =>
    (value: Draft[K]) =>
      form.set({ [key]: value } as Partial<Draft>)
  const shownError = missing ?? error
  const problem = (field: string) => problemOf(shownError, field)
  const several = draft.supply === 'three_phase' || draft.supply === 'split_phase'

  function save() {
    const checked = complete.safeParse(draft)
    if (!checked.success) {
      const problems = checked.error.issues.map((i) => ({ field: i.path.join('.'), reason: i.message, accepted: '' }))
      setMissing(new Refusal('Something is still missing.', problems, 400))
      focusFirstWrong()
      return
    }
    setMissing(null)
    onSave(draft as PurposeInput)
  }

  return (
    <form
      className="purpose"
      onSubmit={(e) => {
        e.preventDefault()
        save()
      }}
    >
      <Resumed draft={form} />
      <TemperatureScale marks={marksOf(draft)} window={windowOf(draft)} label="Temperatures of this rig" height={440} />
      <div className="stack">
        <div className="grid2">
          <TextField label={label('name')} value={draft.name} onChange={set('name')} problem={problem('name')} />
          <SelectField
            label="Kind of rig"
            value={draft.kind}
            options={choices('kind') as [Draft['kind'], string][]}
            onChange={setKind}
            problem={problem('kind')}
          />
        </div>
        {known && (
          <p className="small">
            Usually {round(known.usual_low_c, unit)} to {round(known.usual_high_c, unit)}.
            {draft.effect === 'heats' && ` Taken until a run is recorded: ${said(draft.fire ? known.assumed_lit : known.assumed, unit)}.`}
          </p>
        )}
        <Segments
          label={label('effect')}
          value={draft.effect ?? 'heats'}
          options={(choices('effect') as [Effect, string][]).filter(([e]) => !known || e === draft.effect || known.effects.includes(e))}
          onChange={setEffect}
        />
        {problem('effect') && <p role="alert">{problem('effect')!.reason}</p>}
        {draft.effect === 'heats' && known && known.fires !== 'never' && (
          <FireFields
            always={known.fires === 'always'}
            usual={usualFire(known)}
            fire={draft.fire ?? null}
            onChange={(fire) => form.set(!fire === !draft.fire ? { fire } : { ...NOTHING_BESIDE, heater_power_w: null, fire })}
            problem={problem}
          />
        )}
        {draft.effect === 'heats' && !draft.fire && (
          <CoolerFields cooler={draft.cooler ?? null} onChange={set('cooler')} problem={problem} />
        )}
        <div className="grid2">
          <NumberField
            label={watches ? 'Usual temperature' : label('working_c')}
            kind="temperature"
            value={draft.working_c}
            onChange={set('working_c')}
            problem={problem('working_c')}
          />
          <NumberField
            label={label('ambient_c')}
            kind="temperature"
            value={draft.ambient_c ?? null}
            onChange={set('ambient_c')}
            problem={problem('ambient_c')}
          />
          <NumberField
            label={cools ? 'Warmest it may get' : label('highest_c')}
            kind="temperature"
            value={draft.highest_c}
            onChange={set('highest_c')}
            problem={problem('highest_c')}
          />
          <TextField
            label={label('highest_reason')}
            placeholder="what is spoiled"
            value={draft.highest_reason}
            onChange={set('highest_reason')}
            problem={problem('highest_reason')}
          />
          <NumberField
            label={cools || pumps(draft.cooler?.cooled_by) ? 'Coldest allowed' : watches ? 'Lowest allowed (if any)' : label('lowest_c')}
            kind="temperature"
            value={draft.lowest_c ?? null}
            onChange={set('lowest_c')}
            problem={problem('lowest_c')}
          />
          <TextField
            label={label('lowest_reason')}
            placeholder="what goes wrong"
            value={draft.lowest_reason ?? ''}
            onChange={set('lowest_reason')}
            problem={problem('lowest_reason')}
          />
        </div>
        {draft.effect === 'heats' && !draft.fire && (!draft.cooler || draft.heater_sensor) && (
          <HeaterSensorFields sensor={draft.heater_sensor ?? null} onChange={set('heater_sensor')} problem={problem} />
        )}
        <div className="grid2">
          <SelectField
            label={label('supply')}
            value={draft.supply}
            options={supplies.map((s) => [s.supply, s.words] as const)}
            onChange={(supply) => form.set(usual(supply))}
            problem={problem('supply')}
          />
          {otherVoltage || (offer && !offer.voltages_v.includes(draft.supply_voltage_v ?? 0)) ? (
            <NumberField
              label={several ? 'Voltage between lives' : label('supply_voltage_v')}
              kind="voltage"
              value={draft.supply_voltage_v ?? null}
              onChange={set('supply_voltage_v')}
              problem={problem('supply_voltage_v')}
            />
          ) : (
            <SelectField
              label={several ? 'Voltage between lives' : label('supply_voltage_v')}
              value={String(draft.supply_voltage_v)}
              options={[
                ...(offer?.voltages_v ?? [draft.supply_voltage_v]).map((v) => [String(v), `${v} V`] as const),
                [OTHER, 'another…'] as const,
              ]}
              onChange={(v) => (v === OTHER ? setOtherVoltage(true) : form.set(usual(draft.supply, Number(v))))}
              problem={problem('supply_voltage_v')}
            />
          )}
          {draft.supply !== 'dc' &&
            (otherHz || !USUAL_HZ.includes(draft.frequency_hz ?? 50) ? (
              <NumberField
                label={label('frequency_hz')}
                kind="frequency"
                value={draft.frequency_hz ?? null}
                onChange={set('frequency_hz')}
                problem={problem('frequency_hz')}
              />
            ) : (
              <SelectField
                label={label('frequency_hz')}
                value={String(draft.frequency_hz ?? 50)}
                options={[...USUAL_HZ.map((hz) => [String(hz), `${hz} Hz`] as const), [OTHER, 'another…'] as const]}
                onChange={(hz) => (hz === OTHER ? setOtherHz(true) : set('frequency_hz')(Number(hz)))}
                problem={problem('frequency_hz')}
              />
            ))}
          {!watches && (
            <>
              <NumberField
                label={
                  cools
                    ? 'Compressor takes, nameplate'
                    : draft.fire
                      ? 'Its fan takes, nameplate'
                      : several
                        ? 'All elements together'
                        : label('heater_power_w')
                }
                kind="power"
                value={draft.heater_power_w ?? null}
                onChange={set('heater_power_w')}
                problem={problem('heater_power_w')}
              />
              <NumberField
                label={
                  cools
                    ? 'Compressor voltage'
                    : draft.fire
                      ? 'Fan voltage'
                      : several
                        ? 'at this voltage between lives'
                        : label('heater_voltage_v')
                }
                kind="voltage"
                value={draft.heater_voltage_v ?? null}
                onChange={set('heater_voltage_v')}
                problem={problem('heater_voltage_v')}
              />
            </>
          )}
        </div>
        {!watches && draft.supply !== 'dc' && (
          <OwnMainsFields own={draft.own_mains ?? null} onChange={set('own_mains')} problem={problem} />
        )}
        {!watches && (
          <ControlsFields
            controls={draft.controls ?? null}
            mains={draft.supply !== 'dc'}
            usual_v={{ mains: proposed('single_phase'), dc: proposed('dc') }}
            onChange={set('controls')}
            problem={problem}
          />
        )}
        <Materials materials={draft.materials ?? []} onChange={set('materials')} problem={problem} />
        <Refused error={shownError} />
        <Conflict draft={form} />
        {children}
        <div className="row">
          <button className="button main" disabled={busy || !!form.theirs}>
            {action}
          </button>
        </div>
      </div>
    </form>
  )
}
