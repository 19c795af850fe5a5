import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { Fig } from '../shared/Fig'
import { NumberField, TextField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { fixed, say } from '../units/quantity'
import { AddedAt } from './AddedAt'
import { orUnreadable } from './draft'
import { Causes } from './Outcome'

type Level = Schemas['LevelRow']
type Way = Schemas['CorrectingEnum']
interface Typed {
  correcting: Way
  points: number | null
  step_c: number | null
  gain_step: number | null
  limit_c: number | null
  /** Left out of those that are taken by default, or taken besides them. */
  turned: string[]
  anyway: string
}
const START: Typed = { correcting: 'gain', points: 2, step_c: null, gain_step: 0.001, limit_c: 20, turned: [], anyway: '' }

/** Comparisons at more than one temperature: a gain, or points, that correct them all. */
export function Several({ rig }: { rig: Rig }) {
  const { data } = useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'several', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/calibration/several', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  if (!data) return null
  const temperatures = data.levels.filter((level) => level.newest).length
  return (
    <details className="fold-out" open={temperatures > 1}>
      <summary>
        <h2>More than one temperature</h2>
        <span className="dim"> an offset holds where it was found; a gain, or points, hold between</span>
      </summary>
      {data.school !== 'added_to_reading' ? (
        <p>This controller’s number makes the load hotter or cooler: it is one number, for one temperature.</p>
      ) : temperatures < 2 ? (
        <p>
          Compare at two temperatures or more, on both sides of the work if you can: change “Compared at” above, take pairs, and record them
          with “Record, leave as found”. They come together here.
        </p>
      ) : (
        <Correct rig={rig} data={data} />
      )}
    </details>
  )
}

function Correct({ rig, data }: { rig: Rig; data: Schemas['SeveralView'] }) {
  const [typed, setTyped] = useKept<Typed>(`several ${rig.slug}`, START)
  const { label, choices, says } = useWords()
  const set = (part: Partial<Typed>) => setTyped({ ...typed, ...part })
  const taken = (level: Level) => level.newest !== typed.turned.includes(level.key)
  const numbers = [typed.points, typed.step_c, typed.gain_step, typed.limit_c]
  const asked: Schemas['SeveralInputRequest'] = {
    correcting: typed.correcting,
    levels: data.levels.filter(taken).map((level) => level.key),
    points: typed.points ?? 2,
    step_c: typed.step_c,
    gain_step: typed.gain_step ?? 0.001,
    limit_c: typed.limit_c ?? 20,
  }
  const query = useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'several', 'preview', rig.revision, asked],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/calibration/several/preview', { params: { path: { slug: rig.slug } }, body: asked })),
    enabled: !numbers.some(Number.isNaN),
    placeholderData: (before) => before,
    retry: false,
  })
  const save = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/calibration/several', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, several: asked, anyway: typed.anyway },
      }),
    ),
  )
  const found = query.error ? undefined : query.data
  const number = (name: 'step_c' | 'limit_c' | 'gain_step' | 'points') => ({
    label: name === 'limit_c' ? 'Its limit, ±' : label(name),
    kind: name === 'points' ? ('count' as const) : name === 'gain_step' ? ('ratio' as const) : ('temperature_difference' as const),
    value: name === 'step_c' ? (typed.step_c ?? data.step_c) : typed[name],
    onChange: orUnreadable((value) => set({ [name]: value })),
    problem: problemOf(query.error, name),
  })
  const stopped = !found || query.isPlaceholderData || save.isPending || (found.needs_reason && !typed.anyway.trim())
  return (
    <div className="cal">
      <div className="stack">
        <Comparisons
          levels={data.levels}
          taken={taken}
          turn={(key) => set({ turned: typed.turned.includes(key) ? typed.turned.filter((k) => k !== key) : [...typed.turned, key] })}
        />
        <Segments
          label={label('correcting')}
          value={typed.correcting}
          options={choices('correcting') as [Way, string][]}
          onChange={(correcting) => set({ correcting })}
        />
        <div className="grid2">
          {typed.correcting === 'points' ? <NumberField {...number('points')} /> : <NumberField {...number('gain_step')} />}
          <NumberField {...number('step_c')} />
          <NumberField {...number('limit_c')} />
        </div>
      </div>
      <div className="stack">
        {query.error ? <Refused error={query.error} /> : null}
        {found && (
          <>
            <AddedAt found={found} working={rig.purpose.working_c} />
            <p>
              <span className={`badge ${found.touch ? 'fine' : 'fault'}`}>{says('verdict_of_offset', found.verdict)}</span>{' '}
              <Said>{found.advice}</Said>
            </p>
            {found.causes && <Causes causes={found.causes} sensor={rig.choice?.sensor ?? ''} />}
            <dl className="typed answer">
              {found.typed.map((figure) => (
                <div key={figure.name}>
                  <dt>{figure.name}</dt>
                  <dd>
                    {figure.kind === 'ratio' ? fixed(figure.value, 4) : say(figure.value, figure.kind, data.unit === 'F' ? 'F' : 'C')}
                  </dd>
                </div>
              ))}
            </dl>
            <p>
              At the working temperature the display is then off by <Fig figure={found.at_working} />; at worst, of those compared, by{' '}
              <Fig figure={found.worst} />. One offset would leave up to <Fig figure={found.one_offset} />.
            </p>
            {found.needs_reason && (
              <TextField
                label={label('anyway')}
                placeholder="a reason, kept in the book"
                value={typed.anyway}
                onChange={(anyway) => set({ anyway })}
                problem={problemOf(save.error, 'anyway')}
              />
            )}
            <Refused error={save.error} />
            <div className="row">
              <button
                className="button main"
                disabled={stopped}
                onClick={() => save.mutate(undefined, { onSuccess: () => setTyped(START) })}
              >
                Enter these numbers
              </button>
            </div>
          </>
        )}
        {save.isSuccess && (
          <p role="status">
            In the sheet now. Take them into the controller with Set-up’s walk or over its link, let it settle, and compare once more at
            each temperature.
          </p>
        )}
      </div>
    </div>
  )
}

/** What of the record is taken. */
function Comparisons({ levels, taken, turn }: { levels: Level[]; taken: (level: Level) => boolean; turn: (key: string) => void }) {
  const { unit } = usePreferences()
  return (
    <ul className="levels">
      {levels.map((level) => (
        <li key={level.key}>
          <label>
            <input type="checkbox" checked={taken(level)} onChange={() => turn(level.key)} /> at {say(level.near_c, 'temperature', unit)}:
            add <b className="num">{say(level.add_c, 'temperature_difference', unit)}</b> ±{' '}
            {say(level.expanded_c, 'temperature_difference', unit)}
          </label>
          <span className="dim small">
            {' '}
            {day(level.at)}, {level.reference}, {level.pairs} {level.pairs === 1 ? 'pair' : 'pairs'}
          </span>
        </li>
      ))}
    </ul>
  )
}
