import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { Segments } from '../shared/Segments'
import { ReasonOfPlace, ReasonPanel, Reasons } from '../shell/reason'
import { Feed } from './Feed'
import { HowWrong } from './HowWrong'
import { MistakeFinder } from './MistakeFinder'
import { Thermistor } from './Thermistor'
import { WhichIsPositive } from './WhichIsPositive'
import './sensing.css'

type Question = 'mistakes' | 'colours' | 'budget' | 'thermistor' | 'feed'

const HEADLINE: Record<Question, string> = {
  mistakes: 'What would a wrong connection show?',
  colours: 'Which wire is positive?',
  budget: 'How wrong can the reading be?',
  thermistor: 'What does this thermistor read?',
  feed: 'What must I feed in to show a temperature?',
}

/** Sensor questions that need no rig. */
export default function Sensors() {
  const [query] = useSearchParams()
  const [question, setQuestion] = useState<Question>(query.get('ask') === 'thermistor' ? 'thermistor' : 'mistakes')
  const sensor = query.get('sensor') ?? 'K'
  return (
    <Reasons>
    <div className="rig new">
      <main id="work" tabIndex={-1}>
        <div className="stack noprint" style={{ gap: 10 }}>
          <h1>{HEADLINE[question]}</h1>
          <Segments
            label="Question"
            value={question}
            options={[['mistakes', 'Wrong connection'], ['colours', 'Wire colours'], ['budget', 'How wrong'], ['thermistor', 'Thermistor'], ['feed', 'Feed an input']]}
            onChange={setQuestion}
          />
        </div>
        {question === 'mistakes' && <MistakeFinder start={sensor} />}
        {question === 'colours' && <WhichIsPositive />}
        {question === 'budget' && <HowWrong start={sensor} />}
        {question === 'thermistor' && <Thermistor />}
        {question === 'feed' && <Feed start={sensor} />}
      </main>
      <aside aria-label="Reasons">
        <ReasonPanel />
      </aside>
      <ReasonOfPlace>

        {question === 'mistakes' && (
          <>
            <h2>Computed, not remembered</h2>
            <p>Every curve follows from the reference functions (NIST Monograph 175, IEC 60751) and the circuit the mistake makes.</p>
            <p>
              <b>The head test</b> tells the sneaky ones apart: warm the probe's <i>head</i>, not its tip. Right: nothing happens. Copper: about −1 for each degree. Crossed twice: about −2.
            </p>
          </>
        )}
        {question === 'colours' && (
          <>
            <h2>The standards contradict each other</h2>
            <p>Red is negative in one and positive in another. The tables are from memory of the standards: check them against the print on the cable.</p>
            <p>German “J” and “T” of the old standard are types L and U with tables of their own; never set an input to J or T for them.</p>
            <p>On plugs the wider pin is negative. An IEC blue sheath can mean intrinsically safe.</p>
          </>
        )}
        {question === 'budget' && (
          <>
            <h2>New, and nothing done wrong</h2>
            <p>Class limits hold for sensors as delivered. Used ones drift: calibrate in place at the working depth.</p>
            <p>Press a figure to see where it comes from.</p>
          </>
        )}
        {question === 'thermistor' && (
          <>
            <h2>An unknown probe</h2>
            <p>Log its resistance beside a reference thermometer at three temperatures or more, spread over the range you need.</p>
            <p>Three pairs fit exactly and say nothing about their own errors; a fourth shows what is left over.</p>
          </>
        )}
        {question === 'feed' && (
          <>
            <h2>Proving alarms without heat</h2>
            <p>Put a millivolt source or a decade box in place of the sensor and walk past each alarm, up and down.</p>
            <p>Through copper the input adds its own terminals' temperature: measure it now, and again when you are done.</p>
          </>
        )}
        <div className="caution">
          <strong>Heater isolated</strong> while you handle sensor wires: a wrong reading is a heater at full power.
        </div>
      </ReasonOfPlace>
    </div>
    </Reasons>
  )
}
