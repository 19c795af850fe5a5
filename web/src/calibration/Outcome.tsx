import { Link } from 'react-router'
import type { Rig, Schemas } from '../api/client'
import { Fig, Figures } from '../shared/Fig'
import { Findings } from '../shared/Findings'
import { Said } from '../shared/Said'
import { useWords } from '../units/fields'
import { fixed } from '../units/quantity'
import { Belief } from './Belief'

type Result = Schemas['OffsetResult']

/** The number to enter, whether to, how far to believe it, and what is behind an error too large. */
export function Outcome({ rig, found }: { rig: Rig; found: Result }) {
  const { says } = useWords()
  return (
    <>
      <div className={found.touch ? 'answer' : 'answer dim'}>
        <span className="huge">
          <Fig figure={found.to_enter} />
        </span>
        <p>
          <Said>{found.sentence}</Said>
        </p>
      </div>
      <p>
        <span className={`badge ${found.touch ? 'fine' : 'fault'}`}>{says('verdict_of_offset', found.verdict)}</span>{' '}
        <Said>{found.advice}</Said>
      </p>
      {found.doubts.length > 0 && <Findings rig={rig} findings={found.doubts} fine="" />}
      {found.causes && <Causes causes={found.causes} sensor={rig.choice?.sensor ?? ''} />}
      {found.line && (
        <p>
          <Said>{found.line.says}</Said> A line leaves ± <Fig figure={found.line.left} />.
        </p>
      )}
      {found.conforms && (
        <p>
          As found: <Said>{found.conforms.says}</Said> Probability that it is within: <Fig figure={found.conforms.inside} />
        </p>
      )}
      <Belief belief={found.belief} />
      <Figures figures={[found.error, found.spread, found.exact, found.left_over]} />
    </>
  )
}

/** What could be behind an error too large for sensor and input, likeliest first, and the test that tells them apart. */
export function Causes({ causes, sensor }: { causes: NonNullable<Result['causes']>; sensor: string }) {
  return (
    <section className="behind" aria-label="What is behind it">
      <h3>
        <Said>{causes.says}</Said>
      </h3>
      <ol>
        {causes.ranked.map((c) => (
          <li key={c.key}>
            <b>
              <Said>{c.title}</Said>
            </b>{' '}
            <span className="num dim">{share(c.likely)}</span>
            <br />
            <span className="dim">
              <Said>{c.reason}</Said>
            </span>
          </li>
        ))}
      </ol>
      {causes.test && (
        <p>
          <b>Tell them apart:</b> <Said>{causes.test}</Said>
        </p>
      )}
      <Link to={`/questions/mistake?sensor=${sensor}`}>How each is told from the others</Link>
    </section>
  )
}

/** Never certain. */
const share = (likely: number) => `${fixed(Math.min(Math.max(100 * likely, 1), 99), 0)} %`
