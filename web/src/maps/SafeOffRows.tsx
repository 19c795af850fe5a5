import { TextField } from '../shared/fields'
import { problemOf, Wrong } from '../shared/states'
import type { MapFile } from './data'
import { useWords } from '../units/fields'

interface Props {
  draft: MapFile
  error: unknown
  onChange: (sequence: MapFile['safe_off']) => void
}

type Steps = [string, string | number][]

/** What ends the heat, and what is read when it has. */
export function SafeOffRows({ draft, error, onChange }: Props) {
  const { label } = useWords()
  if (!draft.registers.some((r) => r.writable)) return null
  const { writes = [], off_when = [] } = draft.safe_off ?? {}
  const set = (part: { writes?: Steps; off_when?: Steps }) => {
    const made = { writes, off_when, ...part }
    onChange(made.writes.length || made.off_when.length ? made : undefined)
  }
  const problem = problemOf(error, 'safe_off')
  return (
    <div className="row maphead">
      <TextField
        label={label('writes')}
        placeholder="mode=off"
        value={asText(writes)}
        onChange={(text) => set({ writes: asSteps(text) })}
        problem={problemOf(error, 'safe_off.writes')}
      />
      <TextField
        label={label('off_when')}
        placeholder="mode=off, output=0"
        value={asText(off_when)}
        onChange={(text) => set({ off_when: asSteps(text) })}
        problem={problemOf(error, 'safe_off.off_when')}
      />
      {problem && <Wrong problem={problem} />}
    </div>
  )
}

const asText = (steps: Steps) => steps.map(([name, value]) => (value === '' ? name : `${name}=${value}`)).join(', ')

const asSteps = (text: string): Steps =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part) => {
      const [name = '', value = ''] = part.split('=').map((s) => s.trim())
      return [name, value !== '' && Number.isFinite(Number(value)) ? Number(value) : value]
    })
