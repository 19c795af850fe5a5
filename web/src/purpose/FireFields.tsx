import type { Problem, Schemas } from '../api/client'
import { NumberField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'
import type { TypedFire } from './form'

/** A fire as a kind of rig is taken to have it. */
export const usualFire = (kind: Schemas['RigKindView'] | undefined): TypedFire => ({
  fire_w: null,
  idle_percent: kind?.idle_percent ?? null,
  dies_s: kind?.dies_s ?? null,
})

/** What makes the heat; and of a fire what it gives with its fan, without, and how slowly it follows. */
export function FireFields({
  always,
  usual,
  fire,
  onChange,
  problem,
}: {
  always: boolean
  usual: TypedFire
  fire: TypedFire | null
  onChange: (fire: TypedFire | null) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label } = useWords()
  const number = (name: keyof TypedFire, kind: 'power' | 'percent' | 'time', hint: string) => (
    <NumberField
      label={label(name)}
      kind={kind}
      value={fire?.[name] ?? null}
      onChange={(value) => fire && onChange({ ...fire, [name]: value })}
      hint={hint}
      problem={problem(`fire.${name}`)}
    />
  )
  return (
    <>
      {!always && (
        <Segments
          label="What makes the heat"
          value={fire ? 'fire' : 'element'}
          options={[
            ['element', 'An electric element'],
            ['fire', 'A fire with a fan, or a burner'],
          ]}
          onChange={(what) => onChange(what === 'fire' ? (fire ?? usual) : null)}
        />
      )}
      {problem('fire') && <p role="alert">{problem('fire')!.reason}</p>}
      {fire && (
        <>
          <div className="grid2">
            {number('fire_w', 'power', 'with the fan full on')}
            {number('idle_percent', 'percent', 'what a leaking door feeds for good')}
            {number('dies_s', 'time', 'seconds for gas, minutes for embers')}
          </div>
          <p className="small">
            A gas or oil burner keeps its own certified control: purge, ignition, flame and valve are its affair. Only its demand contact is
            switched here; then the fan below is that contact’s circuit.
          </p>
        </>
      )}
    </>
  )
}
