import { useQuery } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useChange } from '../api/hooks'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { ByHand, numbersOf, type Numbers, useByHand } from './ByHand'
import { CandidateTable } from './CandidateTable'
import { Chosen } from './Chosen'
import { useHeldWhile } from './heldWhile'
import { BY_HAND, drawn, type Trial } from './lines'
import { Responses } from './Responses'
import { Schools } from './Schools'
import { WhereTheyLie } from './WhereTheyLie'

type Priority = 'no_overshoot' | 'fast' | 'steady' | 'gentle'

const PRIORITIES = [
  ['no_overshoot', 'no overshoot'],
  ['fast', 'fast'],
  ['steady', 'steady'],
  ['gentle', 'gentle on the switch'],
] as const

/** Candidates put through trials, overlaid on the window, with what each would do in numbers. */
export function Candidates({ rig, data }: { rig: Rig; data: Schemas['TuningView'] }) {
  const { unit } = usePreferences()
  const [priority, setPriority] = useInAddress<Priority>('priority', 'no_overshoot', PRIORITIES.map(([key]) => key)) // prettier-ignore
  const [trial, setTrial] = useInAddress<Trial>('trial', 'heat_up', data.trials.map((t) => t.trial)) // prettier-ignore
  const [picked, setPicked] = useInAddress<string>('candidate', '')
  const [all, setAll] = useState(false)
  const top = useRef<HTMLElement>(null)
  const [numbers, setNumbers] = useState<Numbers | null>(null)
  const [waiting, setWaiting] = useState(false)
  const asked = useHeldWhile(numbers, waiting)
  const hand = useByHand(rig.slug, data.revision, asked, trial)
  if (hand.isFetching !== waiting) setWaiting(hand.isFetching)

  const known = data.candidates.find((c) => c.key === picked)?.key
  const preferred = known ?? data.preferred[priority] ?? data.candidates[0]!.key
  const chosen = picked === BY_HAND && numbers ? BY_HAND : preferred
  const shown = useMemo(() => drawn(data, preferred), [data, preferred])
  const trials = useTrials(rig.slug, data.revision, trial, shown)
  const mine = numbers ? hand.data : undefined
  const words = data.trials.find((t) => t.trial === trial)
  const lines = useMemo(() => {
    const names = new Map(data.candidates.map((c) => [c.key, c.name]))
    const found = (trials.data?.candidates ?? []).map((c) => ({ key: c.key, name: names.get(c.key) ?? '', course: c.course }))
    return mine?.course ? [...found, { key: BY_HAND, name: mine.name, course: mine.course }] : found
  }, [data, trials.data, mine])

  const accept = useChange(rig.slug, (candidate: string) =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/accept', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, candidate, by_hand: candidate === BY_HAND ? numbers : null },
      }),
    ),
  )
  const current = chosen === BY_HAND ? mine : data.candidates.find((c) => c.key === chosen)
  const rows = [...data.candidates.filter((c) => all || shown.includes(c.key)), ...(mine ? [mine] : [])]
  return (
    <section aria-label="Candidates" ref={top}>
      <div className="row trials">
        <Segments label="Put through" value={trial} options={data.trials.map((t) => [t.trial, t.name] as const)} onChange={setTrial} />
        <span className="dim">
          <Said>{words?.says ?? ''}</Said>
        </span>
      </div>
      <Responses data={data} lines={lines} chosen={chosen} trial={trial} name={words?.name ?? ''} />
      <Refused error={trials.error} />
      <div className="matters">
        <Segments
          label="What matters most"
          value={chosen === data.preferred[priority] ? priority : null}
          options={PRIORITIES}
          onChange={(p) => {
            setPriority(p)
            setPicked('')
          }}
        />
        <p className="dim">{said(data.reasons[priority] ?? '', unit)}</p>
      </div>
      <CandidateTable rows={rows} lines={lines} chosen={chosen} onPick={setPicked} />
      <div className="row">
        <button type="button" className="button quiet" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? 'Only these few' : `All ${data.candidates.length}`}
        </button>
        <button
          type="button"
          className="button quiet"
          aria-expanded={numbers !== null}
          onClick={() => {
            const from = data.candidates.find((c) => c.key === preferred)
            setNumbers(numbers || !from ? null : numbersOf(from))
            setPicked(numbers ? '' : BY_HAND)
          }}
        >
          {numbers ? 'Put the sliders away' : 'Turn the numbers by hand'}
        </button>
      </div>
      {numbers && <ByHand numbers={numbers} onChange={(n) => (setNumbers(n), setPicked(BY_HAND))} refused={hand.error} />}
      {current && (
        <Chosen
          rig={rig}
          candidate={current}
          trial={trial}
          course={lines.find((l) => l.key === chosen)?.course}
          inSheet={data.identified?.accepted === current.key && chosen !== BY_HAND && !accept.isPending}
          pending={accept.isPending || (chosen === BY_HAND && (hand.isFetching || asked !== numbers))}
          onUse={() => accept.mutate(chosen)}
        />
      )}
      <Refused error={accept.error} />
      <Schools
        rig={rig}
        onRehearse={(step) => {
          setNumbers(step)
          setPicked(BY_HAND)
          top.current?.scrollIntoView()
        }}
      />
      <WhereTheyLie
        candidates={mine ? [...data.candidates, mine] : data.candidates}
        front={data.front}
        chosen={chosen}
        onPick={setPicked}
      />
    </section>
  )
}

function useTrials(slug: string, revision: number, trial: Trial, candidates: string[]) {
  return useQuery({
    queryKey: ['of', slug, 'trials', revision, trial, candidates],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/tuning/trials', { params: { path: { slug } }, body: { trial, candidates } })),
    placeholderData: (before) => (before?.trial === trial ? before : undefined), // another candidate, the same trial,
    retry: false,
  })
}
