import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { Fetched } from '../shared/Fetched'
import { SelectField, TextField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { useWidth } from '../shared/useWidth'
import { pagesOf, type RigController, useControllers } from './data'
import { Exchange } from './Exchange'
import { FrontPanel } from './FrontPanel'
import { InManual } from './Manual'
import { ReadBack } from './ReadBack'
import { RouteMap } from './RouteMap'
import './menus.css'

interface Props {
  rig: Rig
  /** The sheet that is wanted: as it is typed, or as it is proposed. */
  wish: Record<string, number | string | null>
  typed: boolean
}

/** From what is in the controller to what is wanted, key by key. */
export function Keys({ rig, wish, typed }: Props) {
  const values = Object.fromEntries(Object.entries(wish).filter(([, v]) => v !== null)) as Record<string, number | string>
  const mine = useQuery({
    queryKey: ['of', rig.slug, 'controller', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/controller', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  const tries = !!mine.data?.key && (typed || !mine.data.begun)
  const tried = useQuery({
    queryKey: ['of', rig.slug, 'walk', rig.revision, values],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/controller/walk', { params: { path: { slug: rig.slug } }, body: { values } })),
    placeholderData: (before) => before,
    enabled: tries,
    retry: false,
  })
  return (
    <Fetched query={mine}>
      {(data) => (
        <>
          <Which rig={rig} data={data} />
          {data.exchange.length > 0 && <Exchange rig={rig} data={data} />}
          <Refused error={tries ? tried.error : null} />
          {data.description && (!tries || tried.data) && (
            <TheWalk key={data.key} rig={rig} data={tries ? tried.data! : data} values={tries ? values : {}} />
          )}
        </>
      )}
    </Fetched>
  )
}

/** Which controller it is; another one in its place is said here too. */
function Which({ rig, data }: { rig: Rig; data: RigController }) {
  const library = useControllers()
  const [changing, setChanging] = useState(false)
  const [key, setKey] = useState('')
  const [why, setWhy] = useState('')
  const [fresh, setFresh] = useState<'fresh' | 'same'>('fresh')
  const [has, setHas] = useState<string[]>(data.description?.options ?? [])
  const options = library.data?.controllers.find((c) => c.key === (key || data.key))?.options ?? []
  const fit = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/controller', {
        params: { path: { slug: rig.slug } },
        body: {
          revision: data.revision,
          key: key || data.key,
          why,
          fresh: !!data.key && fresh === 'fresh',
          options: options.filter((o) => has.includes(o)),
        },
      }),
    ),
  )
  if (data.key && !changing)
    return (
      <p className="lead">
        {data.description!.title}
        {data.description!.options.length > 0 && `, with the ${data.description!.options.join(' and the ')}`}. {data.description!.note}{' '}
        <button className="link" onClick={() => setChanging(true)}>
          Another controller
        </button>
      </p>
    )
  return (
    <div className="stack which">
      <p className="lead">
        Which controller is it? With its menus described, Rellux says which keys to press, and you can rehearse them here.{' '}
        <Link to="/controllers">Describe one</Link> from its manual if it is not in the list.
      </p>
      <SelectField
        label="Controller"
        value={key || data.key}
        options={[['', 'choose one'], ...(library.data?.controllers ?? []).map((c): [string, string] => [c.key, c.title])]}
        onChange={setKey}
      />
      {options.map((option) => (
        <label key={option} className="tick">
          <input
            type="checkbox"
            checked={has.includes(option)}
            onChange={(e) => setHas(e.target.checked ? [...has, option] : has.filter((o) => o !== option))}
          />{' '}
          it has the {option}
        </label>
      ))}
      {data.key && (
        <Segments
          label="It is"
          value={fresh}
          options={[
            ['fresh', 'a new one, as delivered'],
            ['same', 'the same one, described otherwise'],
          ]}
          onChange={setFresh}
        />
      )}
      {data.key && <TextField label="Why (goes into the book)" value={why} onChange={setWhy} />}
      <Refused error={fit.error} />
      <div className="row">
        <button
          className="button main"
          disabled={!(key || data.key) || fit.isPending}
          onClick={() => fit.mutate(undefined, { onSuccess: () => setChanging(false) })}
        >
          It is this one
        </button>
        {changing && (
          <button className="button" onClick={() => setChanging(false)}>
            Leave it
          </button>
        )}
      </div>
    </div>
  )
}

function TheWalk({ rig, data, values }: { rig: Rig; data: RigController; values: Record<string, number | string> }) {
  const description = data.description!
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const [picked, setPicked] = useState('')
  const [rehearsed, setRehearsed] = useState(0)
  const progress = useChange(rig.slug, (done: number) =>
    need(
      api.PUT('/api/v1/rigs/{slug}/controller/walk', {
        params: { path: { slug: rig.slug } },
        body: { revision: data.revision, values, done },
      }),
    ),
  )
  const next = data.steps.findIndex((s) => s.gestures > data.done)
  const before = next > 0 ? data.steps[next - 1] : undefined
  const here = data.done ? (before?.page ?? '') : ''
  const pages = pagesOf(description)
  /** How far the rehearsal is: the furthest step whose display is there. */
  const follow = (there: Schemas['PanelView'] | null) => {
    if (!there) return setRehearsed(0)
    const step = data.steps[rehearsed]
    if (step && !there.pending && pages[there.page]?.page.key === step.page && (!step.value || there.display.value === step.value))
      setRehearsed(rehearsed + 1)
  }
  return (
    <div ref={box} className="walk">
      {data.unheld.some((u) => !u.has_page) && (
        <p className="small">
          No page of it sets{' '}
          {data.unheld
            .filter((u) => !u.has_page)
            .map((u) => u.title.toLowerCase())
            .join(', ')}
          : find out what it does there.
        </p>
      )}
      {data.unheld.some((u) => u.idle) && (
        <p className="small dim">
          Left as it is, because it is not in force then:{' '}
          {data.unheld
            .filter((u) => u.idle)
            .map((u) => u.title.toLowerCase())
            .join(', ')}
          .
        </p>
      )}
      {data.unheld.some((u) => u.has_page && !u.idle) && (
        <ul className="findings" aria-label="What it cannot hold">
          {data.unheld
            .filter((u) => u.has_page && !u.idle)
            .map((u) => (
              <li key={u.title}>
                <span className="badge fault">fault</span> {u.title} stays as it is: {u.why}.
              </li>
            ))}
        </ul>
      )}
      {data.cannot.length > 0 ? (
        <ul className="findings" aria-label="Why there is no walk">
          {data.cannot.map((c) => (
            <li key={String(c.field)}>
              <span className="badge fault">fault</span> {String(c.reason)}; {String(c.accepted)}.
            </li>
          ))}
        </ul>
      ) : (
        <p className="answer">{data.says}</p>
      )}
      <RouteMap {...{ description, here, picked, width }} found={data.found_shown} wanted={data.wanted_shown} onPick={setPicked} />
      <p className="small dim">
        Filled: changes. Yellow: where the walk stands. Stops: the outputs stop inside. Press a stop to say what it really shows.
      </p>
      {data.guarded.length > 0 && <Guarded rig={rig} data={data} />}
      {picked && <PageFound key={picked} rig={rig} data={data} picked={picked} />}
      {data.steps.length > 0 && (
        <div className="walking">
          <div>
            <h2>Key by key</h2>
            {description.timeout_s > 0 && <p className="small dim">Without a key for {description.timeout_s} s it goes back by itself.</p>}
            <ol className="steps" aria-label="Steps of the walk">
              {data.steps.map((s, i) => (
                <li
                  key={i}
                  className={`${s.gestures <= data.done ? 'done' : i === next ? 'upnext' : ''} ${i === rehearsed ? 'rehearsed' : ''}`}
                >
                  {s.warns && <p className="warns">{s.warns}</p>}
                  <label>
                    <input
                      type="checkbox"
                      checked={s.gestures <= data.done}
                      disabled={progress.isPending || data.revision !== rig.revision}
                      onChange={(e) => progress.mutate(e.target.checked ? s.gestures : (data.steps[i - 1]?.gestures ?? 0))}
                    />
                    <span>
                      {s.says}
                      <span className="shows">
                        {s.code || 'reading'}
                        {s.value && ` ${s.value}`}
                      </span>
                    </span>
                  </label>
                  {i === next && <InManual stored={data.key} place={pages.find(({ page }) => page.key === s.page)?.page.manual ?? ''} />}
                </li>
              ))}
            </ol>
            <Refused error={progress.error} />
            <p className="small dim">At the last one the sheet is kept as left.</p>
            <details>
              <summary>
                {data.unchecked
                  ? `Looking again: ${data.unchecked}`
                  : `Then look again: ${data.check.length} steps past every changed page`}
              </summary>
              <ol className="steps">
                {data.check.map((s, i) => (
                  <li key={i}>
                    {s.says} <span className="shows">{`${s.code || 'reading'} ${s.value}`}</span>
                  </li>
                ))}
              </ol>
            </details>
            <button className="button quiet" onClick={() => window.print()}>
              Print as a card
            </button>
          </div>
          <div>
            <h2>Rehearse it</h2>
            <FrontPanel
              key={data.found.join()}
              description={description}
              values={data.found}
              reading={String(Math.round(rig.purpose.ambient_c))}
              onShown={follow}
            />
            <p className="small dim">Nothing here reaches the controller.</p>
          </div>
        </div>
      )}
      <Told rows={data.unheld.filter((u) => !u.has_page)} title="What it has no page for" />
      <Told rows={data.rounded} title="What its last digit makes of it" />
      {data.history.length > 1 && (
        <details>
          <summary>Controllers it had ({data.history.length - 1})</summary>
          <ul>
            {data.history.slice(1).map((h) => (
              <li key={h.at}>
                {h.title || 'none described'} {h.why && `, ${h.why}`}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  )
}

function Told({ rows, title }: { rows: Schemas['Told'][]; title: string }) {
  if (!rows.length) return null
  return (
    <details>
      <summary>
        {title} ({rows.length})
      </summary>
      <ul>
        {rows.map((r) => (
          <li key={r.title}>
            {r.title}: {r.why}.
          </li>
        ))}
      </ul>
    </details>
  )
}

/** One page of the map: what it is thought to show, and what it shows in truth. */
function PageFound({ rig, data, picked }: { rig: Rig; data: RigController; picked: string }) {
  const at = pagesOf(data.description!).findIndex(({ page }) => page.key === picked)
  const { page, group } = pagesOf(data.description!)[at]!
  const [text, setText] = useState('')
  const tell = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/controller/found', {
        params: { path: { slug: rig.slug } },
        body: { revision: data.revision, read: [{ page: picked, shows: text }], tuned: false },
      }),
    ),
  )
  const [shows, becomes] = [data.found_shown[at]!, data.wanted_shown[at]!]
  const isSet = page.choices.length > 0 || page.low < page.high
  return (
    <section className="pagefound" aria-label={`Page ${page.code}`}>
      <p>
        <b className="num">{page.code || 'home'}</b> {page.title}, {group.title}.{' '}
        {isSet && (
          <>
            Thought to show <b className="num">{shows}</b>
            {shows !== becomes && (
              <>
                , to be <b className="num">{becomes}</b>
              </>
            )}
            .
          </>
        )}{' '}
        <InManual stored={data.key} place={page.manual} />
      </p>
      {isSet && (
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault()
            tell.mutate(undefined, { onSuccess: () => setText('') })
          }}
        >
          <TextField label="It shows something else" value={text} onChange={setText} />
          <button className="button" disabled={!text.trim() || tell.isPending || data.revision !== rig.revision}>
            As found
          </button>
        </form>
      )}
      <Refused error={tell.error} />
    </section>
  )
}

/** What no walk does: told as done, so that what was in it before can be walked back to. */
function Guarded({ rig, data }: { rig: Rig; data: RigController }) {
  const done = useChange(rig.slug, (choice: { page: string; counts: number }) =>
    need(
      api.POST('/api/v1/rigs/{slug}/controller/guarded', {
        params: { path: { slug: rig.slug } },
        body: { revision: data.revision, ...choice },
      }),
    ),
  )
  return (
    <details className="guarded">
      <summary>What no walk presses</summary>
      {data.guarded.map((g) => (
        <div key={g.page + g.counts}>
          <div className="row">
            <span>
              <span className="shows">
                {g.code} {g.choice}
              </span>{' '}
              {g.means || 'guarded'}
              {g.changes > 0 ? `: ${g.changes} pages change.` : !g.finds && ': nothing in it would change now.'}
            </span>
            {g.changes > 0 && (
              <button
                className="button"
                disabled={done.isPending || data.revision !== rig.revision}
                onClick={() => done.mutate({ page: g.page, counts: g.counts })}
              >
                It was done
              </button>
            )}
          </div>
          {g.finds && <ReadBack rig={rig} data={data} page={g.page} />}
        </div>
      ))}
      <p className="small dim">What is in it now is kept as found first; “Back to this” under Values walks back to it.</p>
      <Refused error={done.error} />
    </details>
  )
}
