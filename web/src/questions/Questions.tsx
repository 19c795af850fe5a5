import { NavLink, useParams } from 'react-router'
import { Failure, Loading, Lost } from '../shared/states'
import { ReasonPanel, Reasons } from '../shell/reason'
import { Ask } from './Ask'
import { TOPICS, useQuestions } from './data'

/** Only where the list has its own scroll bar: below the answer, on a phone, the page would jump to it. */
const intoView = (link: HTMLAnchorElement | null) => {
  const list = link?.closest('nav')
  if (list && list.scrollHeight > list.clientHeight) link?.scrollIntoView({ block: 'nearest' })
}

/** Questions that need no rig, along the way from the sensor to the box. */
export default function Questions() {
  const { key = 'capability' } = useParams()
  const { data, error } = useQuestions()
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const question = data.find((q) => q.key === key)
  return (
    <Reasons key={key}>
      <div className="rig asks">
        <nav className="side noprint" aria-label="Questions">
          {TOPICS.map(([topic, name]) => (
            <section key={topic}>
              <h2>{name}</h2>
              {data
                .filter((q) => q.topic === topic)
                .map((q) => (
                  <NavLink key={q.key} to={`/questions/${q.key}`} ref={q.key === key ? intoView : null}>
                    {q.title}
                  </NavLink>
                ))}
            </section>
          ))}
        </nav>
        <main id="work" tabIndex={-1}>
          {question ? <Ask key={key} question={question} /> : <Lost />}
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
        </aside>
      </div>
    </Reasons>
  )
}
