import { useMutation } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'
import { Said } from '../shared/Said'
import { SelectField } from '../shared/fields'
import { Refused } from '../shared/states'
import { useWords } from '../units/fields'

type Format = Schemas['LineFormatRequest']
interface Props {
  device: string
  baud: number
  format: Format | null
  onFormat: (format: Format, interval?: number) => void
}

/** What a board prints, how it is read, and what each of its fields is taken for. */
export function Listen({ device, baud, format, onFormat }: Props) {
  const { label, choices } = useWords()
  const listen = useMutation({
    mutationFn: () => need(api.POST('/api/v1/serial-ports/listen', { body: { device, baud } })),
    onSuccess: (heard) => onFormat(heard.learnt.format, heard.interval_s),
  })
  const heard = listen.data
  const roleOf = (key: string) => Object.entries(format?.roles ?? {}).find(([, k]) => k === key)?.[0] ?? ''
  const assign = (key: string, role: string) => {
    if (!format) return
    const roles = Object.fromEntries(Object.entries(format.roles).filter(([r, k]) => r !== role && k !== key))
    onFormat({ ...format, roles: role ? { ...roles, [role]: key } : roles })
  }
  return (
    <div className="stack">
      <div className="caution">
        <strong>Opening the port may reset the board.</strong> Its pins float for a moment, and what it controls goes off, or on. Try it
        with the heater’s main switch off. Without commands Rellux only listens, and cannot switch this heater off.
      </div>
      <div className="row">
        <button className="button" disabled={!device || listen.isPending} onClick={() => listen.mutate()}>
          {listen.isPending ? 'Listening, up to eight seconds…' : 'Listen'}
        </button>
        {heard && (
          <span className="dim">
            {heard.learnt.whole} of {heard.learnt.heard} lines are of this form, one every {heard.interval_s} s
          </span>
        )}
      </div>
      <Refused error={listen.error} />
      {heard && <pre className="preamble">{heard.lines.join('\n')}</pre>}
      {heard?.learnt.doubts.map((doubt) => (
        <p key={doubt} className="small">
          <Said>{doubt}</Said>
        </p>
      ))}
      {format && (
        <div className="grid2 writing">
          {format.keys.map((key) => {
            const field = heard?.learnt.fields.find((f) => f.key === key || f.key.startsWith(`${key} `))
            return (
              <SelectField
                key={key}
                label={field?.key ?? key}
                hint={field && `heard: ${field.shown.join(', ')}`}
                value={roleOf(key)}
                options={[['', 'not used'], ...choices('live_role')]}
                onChange={(role) => assign(key, role)}
              />
            )
          })}
          <SelectField
            label={label('unit')}
            value={format.unit ?? 'C'}
            options={choices('unit')}
            onChange={(unit) => onFormat({ ...format, unit })}
          />
          {'output' in format.roles && (
            <SelectField
              label={label('output_scale')}
              value={format.output_scale ?? 'percent'}
              options={choices('output_scale')}
              onChange={(output_scale) => onFormat({ ...format, output_scale })}
            />
          )}
        </div>
      )}
    </div>
  )
}
