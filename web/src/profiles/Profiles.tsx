import { useEffect, useState } from 'react'
import { Link, useOutletContext, useSearchParams } from 'react-router'
import { useInAddress } from '../api/address'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useDraft, useKept } from '../api/kept'
import { Conflict } from '../shared/Conflict'
import { Fetched } from '../shared/Fetched'
import { SelectField, TextField } from '../shared/fields'
import { Findings } from '../shared/Findings'
import { Resumed } from '../shared/Resumed'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { Undo } from '../shared/Undo'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { Conditions } from './Conditions'
import { Elsewhere } from './Elsewhere'
import { BEGINNING, dragged, type Profile, type ProfilesView, type Tried, useForecast, useProfile, useProfiles, type Work } from './data'
import { Files } from './Files'
import { KindForm } from './KindForm'
import { OfRun } from './OfRun'
import { Outcome } from './Outcome'
import { Picture } from './Picture'
import { PER, type Per } from './RateField'
import { RunIt } from './RunIt'
import { SegmentForm } from './SegmentForm'
import { SegmentRows } from './SegmentRows'
import { Versions } from './Versions'
import './profiles.css'

const LOOKS = [
  ['segments', 'Segments'],
  ['kind', 'From a kind of work'],
  ['conditions', 'Load, start, price'],
  ['controller', 'In a controller'],
  ['go', 'Run it'],
  ['run', 'Over a run'],
  ['files', 'Files'],
] as const
type Look = (typeof LOOKS)[number][0]
const NONE: Work = { name: '', kind: '', inputs: {}, profile: BEGINNING }

/** What the rig is to do over time, and whether it can. */
export default function Profiles() {
  const rig = useOutletContext<Rig>()
  const query = useProfiles(rig.slug, rig.revision)
  if (!rig.choice)
    return (
      <>
        <h1>What it is to do over time</h1>
        <div className="empty">
          <p>Choose the parts first: what the rig can follow depends on them.</p>
          <Link className="button" to={`/rigs/${rig.slug}/parts`}>
            Choose the parts
          </Link>
        </div>
      </>
    )
  return <Fetched query={query}>{(view) => <Chosen rig={rig} view={view} />}</Fetched>
}

/** The profile in the address, else the first of the library; "new" begins one. */
function Chosen({ rig, view }: { rig: Rig; view: ProfilesView }) {
  const [search, setSearch] = useSearchParams()
  const asked = search.get('profile')
  const known = view.profiles.find((p) => p.key === asked) ?? (asked === null ? view.profiles[0] : undefined)
  const key = known?.key ?? ''
  const found = useProfile(rig.slug, key)
  const choose = (next: string) =>
    setSearch((before) => {
      before.set('profile', next || 'new')
      return before
    })
  const [gone, setGone] = useState<{ key: string; name: string } | null>(null)
  const restore = useChange(rig.slug, async (key: string) => {
    const params = { path: { slug: rig.slug } }
    const { revision } = await need(api.GET('/api/v1/rigs/{slug}', { params })) // it has moved on by the removal
    return need(api.POST('/api/v1/rigs/{slug}/profiles/{key}/restore', { params: { path: { ...params.path, key } }, body: { revision } }))
  })
  const data = key && found.data?.key === key ? found.data : null
  if (key && !data) return <Fetched query={found}>{() => null}</Fetched>
  return (
    <>
      <Station
        key={key}
        rig={rig}
        view={view}
        data={data}
        onKey={choose}
        onRemoved={(profile) => {
          setGone(profile)
          choose(view.profiles.find((p) => p.key !== profile.key)?.key ?? '')
        }}
      />
      <Refused error={restore.error} />
      <Undo
        text={gone && `${gone.name} is out of the library.`}
        onUndo={() => {
          if (gone) restore.mutate(gone.key, { onSuccess: () => choose(gone.key) })
        }}
        onClose={() => setGone(null)}
      />
    </>
  )
}

interface StationProps {
  rig: Rig
  view: ProfilesView
  data: Schemas['ProfileView'] | null
  onKey: (key: string) => void
  onRemoved: (profile: { key: string; name: string }) => void
}

function Station({ rig, view, data, onKey, onRemoved }: StationProps) {
  const [look, setLook] = useInAddress<Look>(
    'look',
    'segments',
    LOOKS.map(([key]) => key),
  )
  const { unit } = usePreferences()
  const stored: Work = data ? { name: data.name, kind: data.kind, inputs: data.inputs, profile: data.profile } : NONE
  const draft = useDraft<Work>(rig.slug, `profile ${data?.key ?? 'new'}`, stored, data?.revision ?? view.revision)
  const work = draft.values
  const [tried, setTried] = useKept<Tried>(`profile conditions ${rig.slug}`, {})
  const [chosen, setChosen] = useState(0)
  const [per, setPer] = useState<Per>(() => (localStorage.getItem('rate per') as Per | null) ?? 'min')
  const [why, setWhy, sent] = useKept(`why profile ${rig.slug}`, '')
  const [earlier, setEarlier] = useState<Profile[]>([])
  const forecast = useForecast(rig.slug, work.profile, tried)
  const params = { path: { slug: rig.slug } }
  const save = useChange(rig.slug, () => {
    const body = { revision: draft.revision, ...work, why }
    return data
      ? need(api.PUT('/api/v1/rigs/{slug}/profiles/{key}', { params: { path: { slug: rig.slug, key: data.key } }, body }))
      : need(api.POST('/api/v1/rigs/{slug}/profiles', { params, body }))
  })
  const quickest = useChange(rig.slug, () =>
    need(api.POST('/api/v1/rigs/{slug}/profiles-fastest', { params, body: { ...tried, profile: work.profile } })),
  )
  const remove = useChange(rig.slug, async ({ key, name }: { key: string; name: string }) => {
    await need(
      api.POST('/api/v1/rigs/{slug}/profiles/{key}/remove', {
        params: { path: { slug: rig.slug, key } },
        body: { revision: rig.revision },
      }),
    )
    onRemoved({ key, name })
    draft.discard()
  })
  /** Segments changed by hand are no longer what follows from the kind's inputs only; the kind's judge stays. */
  const change = (profile: Profile) => {
    setEarlier((before) => [...before.slice(-49), work.profile])
    draft.set({ profile })
  }
  const take = (part: Partial<Work>) => {
    setEarlier((before) => [...before.slice(-49), work.profile])
    setChosen(0)
    draft.set(part)
    setLook('segments')
  }
  const undo = () => {
    const last = earlier.at(-1)
    if (!last) return
    setEarlier(earlier.slice(0, -1))
    draft.set({ profile: last })
  }
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== 'z' || (e.target as HTMLElement).closest('input, textarea, select')) return
      e.preventDefault()
      undo()
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  })
  const fastest = () =>
    quickest.mutate(undefined, {
      onSuccess: ({ profile }) => {
        if (profile) change(profile)
      },
    })
  const found = forecast.data
  const error = forecast.error ?? save.error
  const at = Math.min(chosen, work.profile.segments.length - 1)
  return (
    <>
      <h1>What it is to do over time</h1>
      <div className="row profile-head">
        {(view.profiles.length > 0 || data) && (
          <SelectField
            label="Profile"
            value={data?.key ?? ''}
            options={[...view.profiles.map((p) => [p.key, p.name] as [string, string]), ['', data ? 'a new one' : 'this new one']]}
            onChange={onKey}
          />
        )}
        {data && (
          <span className="dim">
            version {data.number}
            {runsOf(data) > 0 && ` · ${runsOf(data)} ${runsOf(data) === 1 ? 'run' : 'runs'} of it`}
          </span>
        )}
        <Segments
          label="Rates in"
          value={per}
          options={(Object.keys(PER) as Per[]).map((p) => [p, `°/${p}`] as const)}
          onChange={(p) => {
            localStorage.setItem('rate per', p)
            setPer(p)
          }}
        />
      </div>
      <Resumed draft={draft} />
      <Conflict draft={draft} label={(f) => f} says={(_, v) => (typeof v === 'string' ? v : told(v))} />
      {found ? (
        <>
          <Picture
            profile={work.profile}
            forecast={found}
            power={view.power_w}
            chosen={at}
            behind={forecast.behind}
            onChoose={setChosen}
            onMove={(segment, celsius, lasts, from) => change(dragged(work.profile, segment, celsius, lasts, from))}
          />
          <p className="profile-answer">
            <Outcome forecast={found} unit={unit} />
          </p>
        </>
      ) : (
        !error && <p className="wait">Working out what the rig makes of it…</p>
      )}
      <Refused error={error} />
      {found && !forecast.error && (
        <Findings
          rig={rig}
          findings={found.findings}
          settle={(proposal) => proposal.target === 'profiles.fastest' && (fastest(), true)}
          fine="The rig follows it, and nothing on its ladder is met."
        />
      )}
      <Refused error={quickest.error} />
      {quickest.data?.why && <p role="status">{quickest.data.why}</p>}
      <div className="looks">
        <Segments label="Look at" value={look} options={LOOKS} onChange={setLook} />
      </div>
      <div className="profile-look">
        {look === 'segments' && (
          <>
            {found && <SegmentRows profile={work.profile} forecast={found} per={per} chosen={at} onChoose={setChosen} />}
            <SegmentForm
              profile={work.profile}
              at={at}
              per={per}
              alarms={view.alarms}
              error={error}
              onChoose={setChosen}
              onChange={change}
            />
          </>
        )}
        {look === 'kind' && <KindForm rig={rig} kinds={view.kinds} work={work} onTake={take} />}
        {look === 'conditions' && found && (
          <Conditions view={view} profile={work.profile} tried={tried} forecast={found} error={error} onTry={setTried} onChange={change} />
        )}
        {look === 'controller' && <Elsewhere rig={rig} view={view} profile={work.profile} name={work.name} onTake={take} />}
        {look === 'go' &&
          (data && !draft.touched ? (
            <RunIt rig={rig} data={data} />
          ) : (
            <p className="dim">Save it first: what is run is a version that is kept.</p>
          ))}
        {look === 'run' &&
          (data ? <OfRun rig={rig} data={data} /> : <p className="dim">Save it first: a run is of a version that is kept.</p>)}
        {look === 'files' && <Files rig={rig} saved={data?.key ?? ''} onTake={take} />}
      </div>
      <div className="stack" style={{ marginTop: 14 }}>
        <div className="grid2">
          <TextField label="Name" value={work.name} onChange={(name) => draft.set({ name })} />
          <TextField label="Why (goes into the book)" value={why} onChange={setWhy} />
        </div>
        <div className="row">
          <button
            className="button main"
            disabled={save.isPending || !!draft.theirs || !draft.touched}
            onClick={() =>
              save.mutate(undefined, {
                onSuccess: ({ key }) => {
                  draft.discard()
                  sent(why)
                  setEarlier([])
                  if (key !== data?.key) onKey(key)
                },
              })
            }
          >
            {data ? 'Save as the next version' : 'Save it'}
          </button>
          {earlier.length > 0 && (
            <button className="button" onClick={undo}>
              Undo
            </button>
          )}
          {draft.touched && (
            <button className="button" onClick={() => (draft.discard(), setEarlier([]))}>
              {data ? 'Back to what is saved' : 'Begin again'}
            </button>
          )}
          {data && (
            <button className="button quiet" onClick={() => remove.mutate({ key: data.key, name: data.name })}>
              Remove
            </button>
          )}
        </div>
        <Refused error={remove.error} />
      </div>
      {data && <Versions data={data} slug={rig.slug} />}
      <ReasonOfPlace>
        <h2>What is drawn</h2>
        <p>
          Thin and black: the set-point as asked. Warm: what the reading probably does, with the width of what is not known. Dashed: the
          core of the load. Below: the power it takes; what is white there is left.
        </p>
        {found && (
          <>
            <p>
              <Said>{found.says}</Said>
            </p>
            <p>
              It rests on <Said>{found.model}</Said>.
            </p>
          </>
        )}
        <div className="caution">
          <strong>The first run is watched.</strong> Unattended heat needs an independent limiter that was proved. Fumes are extracted. A
          hot door is opened standing aside. A controller that loses its link mostly holds the last set-point for ever.
        </div>
      </ReasonOfPlace>
    </>
  )
}

const runsOf = (data: Schemas['ProfileView']) => data.versions.reduce((n, v) => n + v.runs.length, 0)

/** A part of a profile, short enough to be told apart. */
function told(value: unknown): string {
  const profile = value as Partial<Profile>
  return profile.segments ? `${profile.segments.length} segments` : JSON.stringify(value).slice(0, 60)
}
