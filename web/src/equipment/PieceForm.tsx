import { api, need, type Problem, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { DateField, NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { useWords } from '../units/fields'
import { type Certificate, CertificateFields } from './CertificateFields'
import { type Piece, type Probe, type Role, useEquipmentChange, useProbeKinds } from './data'

interface Form {
  name: string
  role: Role
  note: string
  probe: Probe | null
  life: number | null
  due: string
  certificates: Certificate[]
}

const PROBE: Probe = {
  sensor: 'K',
  leads: 2,
  elements: 1,
  junction: 'ungrounded',
  sheath_mm: null,
  length_mm: null,
  lead_m: null,
  lead_mm2: null,
}
const NEW: Form = { name: '', role: 'sensor', note: '', probe: PROBE, life: null, due: '', certificates: [] }

const formOf = (piece: Piece | null): Form =>
  piece
    ? {
        name: piece.row.name,
        role: piece.row.role,
        note: piece.note,
        probe: piece.probe,
        life: piece.life,
        due: piece.row.due ?? '',
        certificates: piece.certificates,
      }
    : NEW

/** What a piece is: a new one, or one that is looked at again. */
export function PieceForm({ piece, onDone }: { piece: Piece | null; onDone: (id: number | null) => void }) {
  const [form, setForm, clear] = useKept<Form>(`piece ${piece?.row.id ?? 'new'}`, formOf(piece))
  const { label, choices } = useWords()
  const set = (part: Partial<Form>) => setForm({ ...form, ...part })
  const save = useEquipmentChange((given: Form) => {
    const certificates = given.certificates as Schemas['CertificateRequest'][] // what is missing is refused by its field
    const body = { ...given, certificates, due: given.due || null }
    return need(
      piece
        ? api.PUT('/api/v1/equipment/{key}', { params: { path: { key: piece.row.id } }, body: { ...body, revision: piece.row.revision } })
        : api.POST('/api/v1/equipment', { body }),
    )
  })
  const problem = (field: string) => problemOf(save.error, field)
  const probes = form.role === 'sensor' || (form.role === 'reference' && form.probe !== null)
  return (
    <form
      className="stack piece-form"
      aria-label={piece ? `What ${piece.row.name} is` : 'A new piece'}
      onSubmit={(e) => {
        e.preventDefault()
        save.mutate(form, { onSuccess: (done) => (clear(form), onDone(done.row.id)) })
      }}
    >
      <div className="fields">
        <TextField
          label="Name, as on its label"
          placeholder="such as S-07"
          value={form.name}
          onChange={(name) => set({ name })}
          problem={problem('name')}
        />
        <SelectField
          label={label('role')}
          value={form.role}
          options={choices('role') as [Role, string][]}
          onChange={(role) => set({ role, probe: role === 'sensor' ? (form.probe ?? PROBE) : null, life: null, certificates: [] })}
          problem={problem('role')}
        />
        {form.role === 'switch' && (
          <NumberField
            label={label('life')}
            kind="count"
            value={form.life}
            onChange={(life) => set({ life })}
            hint="From its data sheet, at this load; empty where it does not wear"
            problem={problem('life')}
          />
        )}
        <DateField label={label('due')} value={form.due} onChange={(due) => set({ due })} problem={problem('due')} />
      </div>
      {probes && form.probe && <ProbeFields probe={form.probe} set={(probe) => set({ probe })} problem={problem} />}
      {form.role === 'reference' && (
        <CertificateFields certificates={form.certificates} set={(certificates) => set({ certificates })} problem={problem} />
      )}
      <TextField
        label={label('note')}
        placeholder="what else is to be known of it"
        value={form.note}
        onChange={(note) => set({ note })}
        problem={problem('note')}
      />
      <Refused error={save.error} />
      <div className="row">
        <button className="button main" disabled={save.isPending}>
          {piece ? 'Save what it is' : 'Enter it'}
        </button>
        <button type="button" className="button" onClick={() => (clear(form), onDone(null))}>
          Leave it
        </button>
      </div>
    </form>
  )
}

function ProbeFields({
  probe,
  set,
  problem,
}: {
  probe: Probe
  set: (probe: Probe) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label, choices } = useWords()
  const { data: kinds = [] } = useProbeKinds()
  const kindOf = (sensor: string) => kinds.find((k) => k.sensor === sensor)
  const can = kindOf(probe.sensor)
  const part = (given: Partial<Probe>) => set({ ...probe, ...given })
  const size = (name: 'sheath_mm' | 'length_mm' | 'lead_m' | 'lead_mm2', kind: 'millimetres' | 'metres' | 'area') => (
    <NumberField
      label={label(name)}
      kind={kind}
      value={probe[name] ?? null}
      onChange={(value) => part({ [name]: value })}
      problem={problem(`probe.${name}`)}
    />
  )
  return (
    <div className="fields">
      <SelectField
        label={label('sensor')}
        value={probe.sensor}
        options={choices('sensor')}
        onChange={(sensor) => part({ sensor, leads: kindOf(sensor)?.leads[0] ?? 2, junction: 'ungrounded' })}
        problem={problem('probe.sensor')}
      />
      {can && can.leads.length > 1 && (
        <SelectField
          label={label('leads')}
          value={String(probe.leads)}
          options={can.leads.map((n) => [String(n), String(n)] as const)}
          onChange={(leads) => part({ leads: Number(leads) })}
          problem={problem('probe.leads')}
        />
      )}
      <SelectField
        label={label('elements')}
        value={String(probe.elements)}
        options={[
          ['1', 'One'],
          ['2', 'Two, in one sheath'],
        ]}
        onChange={(elements) => part({ elements: Number(elements) })}
        problem={problem('probe.elements')}
      />
      <SelectField
        label={label('junction')}
        value={probe.junction ?? 'ungrounded'}
        options={(choices('junction') as [NonNullable<Probe['junction']>, string][]).filter(([key]) => !can || can.junctions.includes(key))}
        onChange={(junction) => part({ junction })}
        problem={problem('probe.junction')}
      />
      {size('sheath_mm', 'millimetres')}
      {size('length_mm', 'millimetres')}
      {size('lead_m', 'metres')}
      {size('lead_mm2', 'area')}
    </div>
  )
}
