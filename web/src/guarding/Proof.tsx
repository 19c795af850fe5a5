import { useQuery } from '@tanstack/react-query'
import { api, need, type Figure, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { Fetched } from '../shared/Fetched'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Fig } from '../shared/Fig'
import { Segments } from '../shared/Segments'
import { wordsOf } from '../shared/effect'
import { capital } from '../units/quantity'
import { Refused } from '../shared/states'
import { day, when } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { fixed, say } from '../units/quantity'

type Seen = { acted: boolean | null; left: boolean; remark: string }

/** The proof that every guard acts: what to dial, what must happen, what did. */
export function Proof({ rig, data }: { rig: Rig; data: Schemas['GuardingView'] }) {
  const [terminals, setTerminals] = useKept<number | null>(`terminals ${rig.slug}`, null)
  const [how, setHow] = useKept<'dial' | 'heat'>(`proof ${rig.slug}`, 'dial')
  const sheet = useQuery({
    queryKey: ['of', rig.slug, 'proof', rig.revision, terminals, how],
    queryFn: () =>
      need(
        api.GET('/api/v1/rigs/{slug}/guarding/proof', {
          params: { path: { slug: rig.slug }, query: { terminals_c: terminals ?? 23, by_heat: how === 'heat' } },
        }),
      ),
    placeholderData: (before) => before,
    enabled: data.saved && terminals != null,
  })
  const { unit } = usePreferences()
  const watches = rig.purpose.effect === 'watches'
  if (!data.saved) return <p className="empty">Save the plan first: the proof is of what is in force.</p>
  return (
    <section className="stack" aria-label="Proof">
      <div className="caution">
        {watches ? (
          <>
            <strong>Watch the load yourself</strong> while a source stands in for a sensor: the instrument believes it. Mains: local code,
            licensed person.
          </>
        ) : (
          <>
            <strong>{capital(wordsOf(rig.purpose.effect).effect)} off and the load out</strong> while a source stands in for a sensor: the
            controller believes it. The real thing only attended, with the main switch in reach. Mains: local code, licensed person.
          </>
        )}
      </div>
      <div className="guardgrid">
        <NumberField
          label="The input’s terminals are at"
          kind="temperature"
          value={terminals}
          onChange={setTerminals}
          hint="a thermometer laid on them"
        />
        <Segments
          label="By"
          value={how}
          options={[
            ['dial', 'a source at the input'],
            ['heat', rig.purpose.effect === 'heats' ? 'real heat' : 'the probe itself, warmed or cooled'],
          ]}
          onChange={setHow}
        />
        {terminals != null && (
          <a
            className="button"
            href={`/api/v1/rigs/${rig.slug}/guarding.pdf?${new URLSearchParams({ terminals_c: String(terminals), by_heat: String(how === 'heat'), unit })}`}
            download
          >
            On paper, to tick
          </a>
        )}
      </div>
      {terminals == null ? (
        <p className="dim">
          Lay a thermometer on the terminals: what is dialled for a thermocouple leaves out what the cold junction adds.
        </p>
      ) : (
        <Fetched query={sheet}>
          {(s) => <Steps key={s.steps.length + how} rig={rig} sheet={s} terminals={terminals} byHeat={how === 'heat'} />}
        </Fetched>
      )}
      <Done proofs={data.proofs} />
    </section>
  )
}

function Steps({ rig, sheet, terminals, byHeat }: { rig: Rig; sheet: Schemas['ProofSheet']; terminals: number; byHeat: boolean }) {
  const { unit } = usePreferences()
  const [seen, setSeen, kept] = useKept<Seen[]>(`proof steps ${rig.slug} ${byHeat}`, [])
  const at = (i: number): Seen => seen[i] ?? { acted: null, left: false, remark: '' }
  const set = (i: number, part: Partial<Seen>) => setSeen(sheet.steps.map((_, k) => (k === i ? { ...at(k), ...part } : at(k))))
  const record = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/guarding/proof', {
        params: { path: { slug: rig.slug } },
        body: {
          revision: rig.revision,
          terminals_c: terminals,
          by_heat: byHeat,
          observed: sheet.steps.map((_, i) => ({ acted: at(i).acted, remark: at(i).remark })),
        },
      }),
    ),
  )
  if (!sheet.steps.length) return <p>Nothing of the plan can be proved at an input yet.</p>
  const done = sheet.steps.filter((_, i) => at(i).acted !== null || at(i).remark.trim()).length
  return (
    <>
      {sheet.why_heat && <p>{sheet.why_heat}</p>}
      <ol className="proof">
        {sheet.steps.map((s, i) => {
          const now = at(i)
          const wrong = now.acted !== null && now.acted !== s.acts
          const heading = i === 0 || sheet.steps[i - 1]!.guard !== s.guard
          return (
            <li key={i}>
              {heading && <h2>{s.guard}</h2>}
              <div className="proofstep">
                <span className="dial">{s.dial ? <Dial figure={s.dial} /> : 'lead off'}</span>
                <span className="num dim">{s.celsius == null ? '' : say(s.celsius, 'temperature', unit)}</span>
                <span className="says">
                  <Said>{`${s.says} ${s.shows}`}</Said>
                </span>
                <span className={`must ${s.acts ? 'acts' : ''}`}>{s.acts ? 'must have acted' : 'must be quiet'}</span>
                <Segments
                  label={`Seen at step ${i + 1}`}
                  value={now.left ? 'left' : now.acted === null ? null : now.acted ? 'acted' : 'quiet'}
                  options={[
                    ['acted', 'acted'],
                    ['quiet', 'quiet'],
                    ['left', 'left out'],
                  ]}
                  onChange={(v) => set(i, v === 'left' ? { acted: null, left: true } : { acted: v === 'acted', left: false, remark: '' })}
                />
                {wrong && <b className="badge danger">not as it must be</b>}
                {now.left && (
                  <input
                    aria-label={`Why step ${i + 1} was left out`}
                    placeholder="because…"
                    value={now.remark}
                    onChange={(e) => set(i, { remark: e.target.value })}
                  />
                )}
              </div>
            </li>
          )
        })}
      </ol>
      <Refused error={record.error} />
      <div className="row">
        <button
          className="button main"
          disabled={record.isPending || done < sheet.steps.length}
          onClick={() => record.mutate(undefined, { onSuccess: () => kept(seen) })}
        >
          Keep the proof
        </button>
        <span className="dim">
          {done} of {sheet.steps.length} steps seen
        </span>
        {sheet.unseen && (
          <span>
            As often as this is planned, the limiter has failed unnoticed with a chance of <Fig figure={sheet.unseen} />.
          </span>
        )}
      </div>
    </>
  )
}

/** What is dialled, as finely as a source is set. */
function Dial({ figure }: { figure: Figure }) {
  const { unit } = usePreferences()
  const show = useShow()
  const symbol = { millivolts: 'mV', resistance: 'Ω' }[figure.kind as string]
  const text = symbol ? `${fixed(figure.value, 2)} ${symbol}` : say(figure.value, figure.kind, unit)
  return (
    <button className="fig" onClick={() => show({ figure })} aria-label={`${figure.name}: ${text}; why`}>
      {text}
    </button>
  )
}

function Done({ proofs }: { proofs: Schemas['ProofView'][] }) {
  if (!proofs.length) return <p className="dim">Nothing has been proved yet: a guard that was never made to act is a hope.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>proved</th>
          <th>by</th>
          <th />
          <th>due again</th>
        </tr>
      </thead>
      <tbody>
        {proofs.map((p) => (
          <tr key={p.at}>
            <td>{when(p.at)}</td>
            <td>{p.who}</td>
            <td>
              <span className={`badge ${p.passed ? 'fine' : 'danger'}`}>{p.passed ? 'passed' : 'not passed'}</span> {p.says}
              {!p.of_this_plan && <span className="dim"> Of an earlier plan.</span>}
            </td>
            <td>{day(p.due)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
