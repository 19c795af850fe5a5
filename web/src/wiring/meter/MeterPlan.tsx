import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useInAddress } from '../../api/address'
import { api, need, type Rig } from '../../api/client'
import { useKept } from '../../api/kept'
import { Said } from '../../shared/Said'
import { SelectField } from '../../shared/fields'
import { Segments } from '../../shared/Segments'
import { Failure, Loading, Refused } from '../../shared/states'
import { significant } from '../../units/quantity'
import type { List } from '../edits'
import { expected, isLive, place, readings, typedValue, verdict } from './meter'
import { Terminal } from '../list/Terminal'

/** What a meter should show at each place; type what it does show, and the fault that explains it stands below. */
export function MeterPlan({ rig, wiring }: { rig: Rig; wiring: List }) {
  const [state, setState] = useInAddress<string>('metered', '')
  const [typed, setTyped] = useKept<Record<string, string>>(`measured ${rig.slug}`, {})
  const [pairs, setPairs] = useState<string[]>([])
  const { data, error } = useQuery({
    queryKey: ['of', rig.slug, 'meter', rig.revision, pairs],
    queryFn: () =>
      need(api.GET('/api/v1/rigs/{slug}/wiring/meter', { params: { path: { slug: rig.slug }, query: { pairs: pairs.join(',') } } })),
    placeholderData: (before) => before,
    retry: false,
  })
  const measured = readings(typed)
  const why = useQuery({
    queryKey: ['of', rig.slug, 'explain', rig.revision, measured],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/wiring/meter', { params: { path: { slug: rig.slug } }, body: { measured } })),
    enabled: measured.length > 0,
    placeholderData: (before) => before,
    retry: false,
  })
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const live = isLive(data[0], state)
  const states: [string, string][] = [
    ['', 'Dead: ohms, plug out'],
    ...Object.keys(data[0]?.volts ?? {}).map((name): [string, string] => [name, `Live: ${name}`]),
  ]
  const moves = [...new Set(data.flatMap((r) => Object.keys(r.moved)))]
  const best = measured.length ? why.data?.[0] : undefined
  return (
    <>
      {best && <p className="fault-summary">{verdict(best)}</p>}
      <Segments label="State" value={live ? state : ''} options={states} onChange={setState} />
      {!live && moves.length > 0 && (
        <div className="moved">
          <span>With</span>
          <SelectField
            bare
            label="With"
            value={state}
            options={[['', 'nothing moved'], ...moves.map((words) => [words, words] as const)]}
            onChange={setState}
          />
        </div>
      )}
      <table className="plain meter">
        <thead>
          <tr>
            <th>Between</th>
            <th>What</th>
            <th className="right">Should show</th>
            <th>Shows</th>
          </tr>
        </thead>
        <tbody>
          {data.map((r) => {
            const key = place(r.a, r.b, state)
            return (
              <tr key={key} className={state in r.moved ? 'differs' : undefined}>
                <td className="num">
                  {r.a} – {r.b}
                </td>
                <td>
                  <Said>{r.about}</Said>
                  {live && r.trap && (
                    <span className="trap">
                      <Said>{r.trap}</Said>
                    </span>
                  )}
                </td>
                <td className="right num">{expected(r, state)}</td>
                <td>
                  <span className="field">
                    <input
                      className="num"
                      aria-invalid={typed[key]?.trim() && typedValue(typed[key]) === undefined ? true : undefined}
                      aria-label={`${r.a} to ${r.b} shows`}
                      placeholder={live ? 'V' : 'Ω, or OL'}
                      value={typed[key] ?? ''}
                      onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
                    />
                    {typed[key]?.trim() && typedValue(typed[key]) === undefined && (
                      <span className="wrong">{live ? 'volts, as 230' : 'ohms, as 16.5 or 4.7k, or OL'}</span>
                    )}
                  </span>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      <OwnPair wiring={wiring} onPair={(pair) => setPairs((before) => [...before.filter((p) => p !== pair), pair])} />
      <Refused error={why.error ?? error} />
      {measured.length > 0 && why.data && (
        <ol className="suspect-list">
          {why.data.slice(0, 5).map((s) => (
            <li key={s.title} className={s.fits ? 'fits' : ''}>
              <b>
                <Said>{s.title}</Said>
              </b>{' '}
              <span className="dim">{s.fits ? 'fits' : `off by ${significant(s.misfit)} tolerances`}</span>
            </li>
          ))}
        </ol>
      )}
      <p className="dim small">
        {!live
          ? 'Plug out, breakers in, and wait for capacitors. Readings through electronics mean nothing and are left out.'
          : 'Prove the tester on a known live source before and after. One hand, category-rated probes, nobody else at the switch.'}
      </p>
    </>
  )
}

/** Two more terminals to look at. */
function OwnPair({ wiring, onPair }: { wiring: List; onPair: (pair: string) => void }) {
  const [a, setA] = useState('')
  const [b, setB] = useState('')
  return (
    <form
      className="add-part"
      onSubmit={(e) => {
        e.preventDefault()
        onPair(`${a}>${b}`)
      }}
    >
      <Terminal label="Also between" value={a} wiring={wiring} onChange={setA} />
      <Terminal label="and" value={b} wiring={wiring} like={1} onChange={setB} />
      <button className="button" disabled={!a || !b}>
        Look here too
      </button>
    </form>
  )
}
