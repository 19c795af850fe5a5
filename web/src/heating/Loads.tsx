import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Finding, type Schemas } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { Fig } from '../shared/Fig'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace, ReasonPanel, Reasons, useShow } from '../shell/reason'
import { localise } from '../units/quantity'
import { BankPicture } from './BankPicture'
import './heating.css'

type Input = Required<Schemas['BankInputRequest']>

const NETWORKS = [['single', 'Single-phase'], ['split', 'Split-phase 120/240'], ['three_phase', 'Three-phase'], ['dc', 'DC']] as const
const VOLTS: Record<Input['network'], number[]> = { single: [100, 120, 230, 240], split: [240], three_phase: [208, 380, 400, 415, 480], dc: [5, 12, 24, 48] }
const BANKS: Record<Input['network'], readonly (readonly [Input['bank'], string])[]> = {
  single: [['parallel', 'Parallel'], ['series', 'Series']],
  split: [['parallel', 'Parallel'], ['series', 'Series']],
  dc: [['parallel', 'Parallel'], ['series', 'Series']],
  three_phase: [['star', 'Star'], ['star_neutral', 'Star with neutral'], ['delta', 'Delta'], ['open_delta', 'Open delta'], ['parallel', 'All on two phases'], ['series', 'In series on two phases']],
}
const TERMINALS: Record<Input['network'], string[]> = { single: ['L', 'N'], split: ['L1', 'L2'], three_phase: ['L1', 'L2', 'L3'], dc: ['+', '−'] }

export default function Loads() {
  return (
    <Reasons>
      <div className="rig new">
        <main id="work" tabIndex={-1}>
          <Bank />
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
        </aside>
      </div>
      <ReasonOfPlace>
        <h2>Star, delta, and what a fault does</h2>
        <p>Star puts the line voltage over √3 on each element, delta the whole of it: three 220 V elements belong in star on 380 V.</p>
        <p>A balanced star needs no neutral. With one, a failed element leaves the others alone; without it they share the line voltage.</p>
        <p>For elements of constant resistance; not lamps, PTC or disilicide.</p>
        <div className="caution">
          <strong>A lost phase is not off.</strong> What hangs on it is live through the elements. Isolate all poles and prove dead.
        </div>
      </ReasonOfPlace>
    </Reasons>
  )
}

function Bank() {
  const { unit } = usePreferences()
  const [load, setLoad] = useState<Input>({ network: 'three_phase', supply_v: 400, bank: 'star', count: 3, power_w: 1500, voltage_v: 230, lost: [], failed: [] })
  const set = (part: Partial<Input>) => setLoad((l) => ({ ...l, lost: [], failed: [], ...part }))
  const { data, error } = useQuery({
    queryKey: ['bank', load],
    queryFn: () => need(api.POST('/api/v1/heating/bank', { body: load })),
    placeholderData: (before) => before,
    retry: false,
  })
  const problem = (field: string) => problemOf(error, field)
  const terminals = [...TERMINALS[load.network], ...(load.bank === 'star_neutral' ? ['N'] : [])]
  const fault = load.lost.length ? `lost ${load.lost[0]}` : load.failed.length ? 'failed 1' : ''
  return (
    <>
      <h1>What does each element get?</h1>
      {data && !error && (
        <>
          <BankPicture load={load} solved={data} />
          <p>
            Together <Fig figure={data.total} />
            {data.findings.length === 0 && <span className="dim">, every element near its nameplate</span>}
          </p>
          <ul className="findings">
            {data.findings.map((f) => (
              <FindingRow key={f.rule} finding={f} />
            ))}
          </ul>
        </>
      )}
      <Refused error={error} />
      <div className="grid2" style={{ gridTemplateColumns: 'repeat(4, minmax(0, 1fr))', marginTop: 14 }}>
        <SelectField label="Supply" value={load.network} options={NETWORKS} onChange={(network) => set({ network, supply_v: VOLTS[network].at(network === 'single' || network === 'three_phase' ? 2 : 0)!, bank: BANKS[network][0]![0] })} />
        <SelectField label={load.network === 'single' || load.network === 'dc' ? 'Voltage' : 'Line to line'} value={String(load.supply_v)} options={VOLTS[load.network].map((v) => [String(v), `${v} V`] as const)} onChange={(v) => set({ supply_v: Number(v) })} problem={problem('supply_v')} />
        <SelectField label="Joined as" value={load.bank} options={BANKS[load.network]} onChange={(bank) => set({ bank, count: bank === 'open_delta' ? 2 : load.count })} problem={problem('bank')} />
        <NumberField label="Elements" value={load.count} onChange={(count) => set({ count: Math.round(count ?? 0) })} problem={problem('count')} />
        <NumberField label="Each, nameplate" kind="power" value={load.power_w} onChange={(power_w) => set({ power_w: power_w ?? 0 })} problem={problem('power_w')} />
        <NumberField label="made for" kind="voltage" value={load.voltage_v} onChange={(voltage_v) => set({ voltage_v: voltage_v ?? 0 })} problem={problem('voltage_v')} />
        <SelectField
          label="What if"
          value={fault}
          options={[['', localise('nothing is wrong', unit)], ...terminals.map((t) => [`lost ${t}`, `${t} is lost`] as const), ['failed 1', 'element 1 has failed open']]}
          onChange={(f) => set(f.startsWith('lost') ? { lost: [f.slice(5)] } : f ? { failed: [1] } : {})}
          problem={problem('lost')}
        />
      </div>
    </>
  )
}

function FindingRow({ finding }: { finding: Finding }) {
  const show = useShow()
  return (
    <li>
      <span className={`badge ${finding.severity}`}>{finding.severity}</span>
      <button className="title" onClick={() => show({ finding })}>
        {finding.title}
      </button>
    </li>
  )
}
