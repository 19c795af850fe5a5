import type { Problem, Schemas } from '../api/client'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'

type All = Schemas['TextCommandsRequest']
type Row = Schemas['TextCommandRequest']

interface Props {
  commands: All | null
  onChange: (commands: All | null) => void
  problem: (field: string) => Problem | undefined
}

/** The usual ones to begin with: the set-point, and the mode with a way to end the heating. */
const BEGIN: All = {
  rows: [
    { name: 'setpoint_c', send: 'SP {value}' },
    { name: 'mode', send: 'RUN {value}', ask: 'RUN?', answer: 'RUN={value}', words: { off: '0', on_off: '1', pid: '2' } },
  ],
  safe_off: [{ name: 'mode', value: 'off' }],
}

/** It is set by words of the board, not by a number. */
const hasWords = (row?: Row) => Object.keys(row?.words ?? {}).length > 0
const AUTO_TUNE = 'auto_tune'
const TUNES_ITSELF: Row = { name: AUTO_TUNE, send: 'TUNE {value}', ask: 'TUNE?', answer: 'TUNE={value}', words: { off: '0', on: '1' } }

/** What the board takes as lines: as its own program says. Nothing of it is sent before writing is armed, but for safe-off. */
export function Commands({ commands, onChange, problem }: Props) {
  const { choices, kind, label } = useWords()
  const rows = commands?.rows ?? []
  const ending = (commands?.safe_off ?? []).filter((s) => s.name !== AUTO_TUNE)
  /** Whatever ends the heating ends a test of the board's own first. */
  const change = (next: Row[], safeOff = ending) =>
    onChange({
      ...commands,
      rows: next,
      safe_off: next.some((r) => r.name === AUTO_TUNE) ? [{ name: AUTO_TUNE, value: 'off' }, ...safeOff] : safeOff,
    })
  const set = (i: number, part: Partial<Row>) => change(rows.map((row, k) => (k === i ? { ...row, ...part } : row)))
  const name = (i: number, to: string) =>
    set(i, to === AUTO_TUNE ? TUNES_ITSELF : { name: to, words: choices(to).length ? (rows[i]!.words ?? wordsOf(to)) : undefined })
  const wordsOf = (of: string) => Object.fromEntries(choices(of).map(([choice]) => [choice, choice]))
  const off = ending[0]
  const offRow = rows.find((r) => r.name === off?.name)
  return (
    <section className="stack" aria-label="Commands">
      <Segments
        label="Commands"
        value={rows.length ? 'takes' : 'prints'}
        options={[
          ['prints', 'It only prints'],
          ['takes', 'It takes commands'],
        ]}
        onChange={(v) => onChange(v === 'takes' ? BEGIN : null)}
      />
      {rows.length > 0 && (
        <>
          <p className="dim">
            As the board’s own program understands them, {'{value}'} where the number goes. What it does not print by itself is asked for,
            and read from its answer: a command that nothing confirms is not sent. Temperatures go in the unit in which it prints them.
          </p>
          {rows.map((row, i) => (
            <div key={i} className="linkform commands">
              <SelectField
                label={label('rows.name')}
                value={row.name}
                options={choices('commanded')}
                onChange={(to) => name(i, to)}
                problem={problem(`commands.rows[${i}].name`)}
              />
              <TextField
                label={label('rows.send')}
                value={row.send}
                onChange={(send) => set(i, { send })}
                problem={problem(`commands.rows[${i}].send`)}
              />
              <TextField
                label={label('rows.ask')}
                value={row.ask ?? ''}
                placeholder="it prints it"
                onChange={(ask) => set(i, { ask })}
                problem={problem(`commands.rows[${i}].ask`)}
              />
              <TextField
                label={label('rows.answer')}
                value={row.answer ?? ''}
                onChange={(answer) => set(i, { answer })}
                problem={problem(`commands.rows[${i}].answer`)}
              />
              <button
                className="button quiet"
                aria-label={`Remove the command for ${row.name}`}
                onClick={() => change(rows.filter((_, k) => k !== i))}
              >
                Remove
              </button>
              {!hasWords(row) && (
                <div className="words">
                  <NumberField
                    label={label('rows.decimals')}
                    value={row.decimals ?? 1}
                    onChange={(decimals) => set(i, { decimals: decimals ?? undefined })}
                    problem={problem(`commands.rows[${i}].decimals`)}
                  />
                  <NumberField
                    label={label('rows.low')}
                    kind={kind(row.name)}
                    value={row.low ?? null}
                    onChange={(low) => set(i, { low })}
                    problem={problem(`commands.rows[${i}].low`)}
                  />
                  <NumberField
                    label={label('rows.high')}
                    kind={kind(row.name)}
                    value={row.high ?? null}
                    onChange={(high) => set(i, { high })}
                    problem={problem(`commands.rows[${i}].high`)}
                  />
                </div>
              )}
              {hasWords(row) && (
                <div className="words">
                  {Object.entries(row.words ?? {}).map(([choice, word]) => (
                    <TextField
                      key={choice}
                      label={`${choices(row.name).find(([k]) => k === choice)?.[1] ?? choice} is`}
                      value={word}
                      onChange={(w) => set(i, { words: { ...row.words, [choice]: w } })}
                      problem={problem(`commands.rows[${i}].words.${choice}`)}
                    />
                  ))}
                </div>
              )}
            </div>
          ))}
          <div className="row">
            <button
              className="button"
              onClick={() => change([...rows, { name: 'integral_time_s', send: 'TI {value}', ask: 'TI?', answer: 'TI={value}' }])}
            >
              Add a command
            </button>
          </div>
          <div className="linkform">
            <SelectField
              label={label('commands.safe_off')}
              value={off?.name ?? ''}
              options={[
                ['', 'choose…'],
                ...rows
                  .filter((r) => r.name !== AUTO_TUNE)
                  .map((r) => [r.name, choices('commanded').find(([k]) => k === r.name)?.[1] ?? r.name] as const),
              ]}
              onChange={(to) => change(rows, [{ name: to, value: hasWords(rows.find((r) => r.name === to)) ? 'off' : 0 }])}
              problem={problem('commands.safe_off')}
            />
            {off && !hasWords(offRow) && <span className="dim">to 0</span>}
            {off && hasWords(offRow) && <span className="dim">to off, and confirmed once it prints that its output or switch is 0</span>}
          </div>
        </>
      )}
    </section>
  )
}
