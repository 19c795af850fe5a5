import { useQuery } from '@tanstack/react-query'
import { useInAddress } from '../api/address'
import { api, need } from '../api/client'
import { Fetched } from '../shared/Fetched'
import { ReasonedPage } from '../shell/reason'
import { useControllers } from './data'
import { Editor } from './Editor'
import { EMPTY } from './editing'
import '../maps/maps.css'
import './menus.css'

/** Controllers' menus: described once from the manual, then walked through, rehearsed and looked up. */
export default function Controllers() {
  return (
    <ReasonedPage
      place={
        <>
          <h2>From the manual</h2>
          <p>Paste the list of its pages, a page a line, its code first; groups in brackets. Then say which keys lead in, on and out.</p>
          <p>An exclamation mark before a choice guards it: no walk passes it. Use it for a factory reset and for auto-tune.</p>
          <p>What shows a page only sometimes, what it resets or converts, and what bounds it stand under “more” of its row.</p>
          <div className="caution">
            <strong>Try it here before you try it there.</strong> A wrong description presses wrong keys. Where a level stops the outputs,
            say so.
          </div>
        </>
      }
    >
      <Library />
    </ReasonedPage>
  )
}

function Library() {
  const library = useControllers()
  const [key, setKey] = useInAddress<string>('controller', '')
  return (
    <Fetched query={library}>
      {(data) => (
        <>
          <h1>How is the controller operated?</h1>
          <ul className="maps" aria-label="Controllers">
            {data.controllers.map((c) => (
              <li key={c.key}>
                <button className={key === c.key ? 'chosen' : ''} aria-pressed={key === c.key} onClick={() => setKey(c.key)}>
                  <b>{c.title}</b>
                  <span>
                    {c.rigs ? `${c.rigs} ${c.rigs === 1 ? 'rig has' : 'rigs have'} it` : c.own ? 'yours' : 'invented, to learn on'}
                  </span>
                </button>
              </li>
            ))}
            <li>
              <button className={key === '' ? 'chosen' : ''} aria-pressed={key === ''} onClick={() => setKey('')}>
                <b>A new one</b>
                <span>from its manual, or from a file</span>
              </button>
            </li>
          </ul>
          <One key={key} stored={key} own={!key || !!data.controllers.find((c) => c.key === key)?.own} onKey={setKey} />
        </>
      )}
    </Fetched>
  )
}

function One({ stored, own, onKey }: { stored: string; own: boolean; onKey: (key: string) => void }) {
  const kept = useQuery({
    queryKey: ['controllers', stored],
    queryFn: () =>
      stored
        ? need(api.GET('/api/v1/controllers/{key}', { params: { path: { key: stored } } }))
        : need(api.POST('/api/v1/controllers/check', { body: { description: EMPTY } })),
  })
  return <Fetched query={kept}>{(data) => <Editor stored={stored} own={own} data={data} onKey={onKey} />}</Fetched>
}
