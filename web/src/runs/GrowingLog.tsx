import { useMutation } from '@tanstack/react-query'
import { api, need, type Problem } from '../api/client'
import { TextField } from '../shared/fields'
import { Refused } from '../shared/states'
import { useWords } from '../units/fields'
import { mappingOf, Preview, Writing, type Mapping } from './LogMapping'

interface Props {
  path: string
  mapping: Mapping | null
  onChange: (part: { device?: string; mapping?: Mapping }) => void
  problem: (field: string) => Problem | undefined
}

/** A log on this machine that another program is writing: where it is, and how it is written. */
export function GrowingLog({ path, mapping, onChange, problem }: Props) {
  const { label } = useWords()
  const look = useMutation({
    mutationFn: (how: Partial<Mapping>) =>
      need(api.POST('/api/v1/logs/look', { body: { path, delimiter: how.delimiter, decimal: how.decimal, skip: how.skip ?? null } })),
    onSuccess: (guess, how) => onChange({ mapping: { ...mappingOf(guess), ...how } }),
  })
  return (
    <div className="stack">
      <p className="dim">
        What is added from now on is live, at the times the log says itself; a run also gets what was written while Rellux was down. The log
        is never changed.
      </p>
      <div className="row" style={{ alignItems: 'end' }}>
        <div style={{ flex: '1 1 320px', maxWidth: 560 }}>
          <TextField
            label={label('path')}
            value={path}
            placeholder="/home/…/oven.csv"
            onChange={(device) => onChange({ device })}
            problem={problem('device')}
          />
        </div>
        <button className="button" disabled={!path || look.isPending} onClick={() => look.mutate({})}>
          {look.isPending ? 'Looking…' : 'Look at it'}
        </button>
      </div>
      <Refused error={look.error} />
      {look.data && mapping && (
        <>
          <Writing
            guess={look.data}
            mapping={mapping}
            error={null}
            onReread={(changed) => look.mutate({ delimiter: mapping.delimiter, decimal: mapping.decimal, skip: mapping.skip, ...changed })}
            onChange={(m) => onChange({ mapping: m })}
          />
          <Preview guess={look.data} mapping={mapping} onChange={(m) => onChange({ mapping: m })} />
        </>
      )}
    </div>
  )
}
