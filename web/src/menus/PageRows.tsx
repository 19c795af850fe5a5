import { useState } from 'react'
import type { Schemas } from '../api/client'
import type { Description, Page } from './data'
import { choicesOf, choicesText, doubled, withPages } from './editing'

interface Props {
  made: Description
  at: number
  parameters: Schemas['ParameterName'][]
  problems: Schemas['DescriptionView']['problems']
  onChange: (made: Description) => void
}

/** The pages of a group as a table: code, words, what it sets, its choices or its range. */
export function PageRows({ made, at, parameters, problems, onChange }: Props) {
  const pages = made.groups[at]!.pages
  const set = (i: number, part: Partial<Page>) =>
    onChange(
      withPages(
        made,
        at,
        pages.map((p, k) => (k === i ? { ...p, ...part } : p)),
      ),
    )
  if (!pages.length) return null
  return (
    <div className="pagerows">
      <table className="plain">
        <thead>
          <tr>
            <th>Code</th>
            <th>In words</th>
            <th>Sets</th>
            <th>Choices: code=value, …</th>
            <th>Least</th>
            <th>Most</th>
            <th>Decimals</th>
            <th>Delivered</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {pages.map((page, i) => {
            const wrong = problems.filter((p) => String(p.field).startsWith(`groups[${at}].pages[${i}].`))
            const values = parameters.find((p) => p.name === page.sets[0])?.choices.map((c) => c[0]!) ?? []
            const shift = 10 ** page.decimals
            const number = (label: string, value: number, put: (n: number) => void) => (
              <td>
                {!page.choices.length && (
                  <Typed
                    label={`${label} of ${page.code}`}
                    value={String(value / shift)}
                    onChange={(t) => put(Math.round(Number(t.replace(',', '.')) * shift))}
                    narrow
                  />
                )}
              </td>
            )
            return (
              <tr key={page.key} className={wrong.length ? 'bad' : ''}>
                <td>
                  <Typed label={`Code ${i + 1}`} value={page.code} onChange={(code) => set(i, { code })} narrow />
                </td>
                <td>
                  <Typed label={`Words of ${page.code}`} value={page.title} onChange={(title) => set(i, { title })} />
                  {wrong.map((p) => (
                    <span key={String(p.field)} className="wrong">
                      {String(p.reason)}; {String(p.accepted)}
                    </span>
                  ))}
                </td>
                <td>
                  <select
                    aria-label={`What ${page.code} sets`}
                    value={page.sets[0] ?? ''}
                    onChange={(e) =>
                      set(i, {
                        sets: e.target.value ? [e.target.value] : [],
                        choices: choicesOf(
                          choicesText(page),
                          { ...page, sets: e.target.value ? [e.target.value] : [] },
                          parameters.find((p) => p.name === e.target.value)?.choices.map((c) => c[0]!) ?? [],
                        ),
                      })
                    }
                  >
                    <option value="">something of its own</option>
                    {parameters.map((p) => (
                      <option key={p.name} value={p.name}>
                        {p.title}
                      </option>
                    ))}
                  </select>
                </td>
                <td>
                  <Typed
                    label={`Choices of ${page.code}`}
                    value={choicesText(page)}
                    onChange={(t) => set(i, { choices: choicesOf(t, page, values), default: 0 })}
                  />
                </td>
                {number('Least', page.low, (low) => set(i, { low }))}
                {number('Most', page.high, (high) => set(i, { high }))}
                <td>
                  {!page.choices.length && (
                    <Typed
                      label={`Decimals of ${page.code}`}
                      value={String(page.decimals)}
                      onChange={(t) => set(i, { decimals: Number(t) || 0 })}
                      narrow
                    />
                  )}
                </td>
                {number('Delivered', page.default, (n) => set(i, { default: n }))}
                <td className="does">
                  <button
                    type="button"
                    className="button quiet"
                    aria-label={`Duplicate ${page.code}`}
                    onClick={() => onChange(doubled(made, at, i))}
                  >
                    copy
                  </button>
                  <button
                    type="button"
                    className="button quiet"
                    aria-label={`Remove ${page.code}`}
                    onClick={() =>
                      onChange(
                        withPages(
                          made,
                          at,
                          pages.filter((_, k) => k !== i),
                        ),
                      )
                    }
                  >
                    ×
                  </button>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

/** A cell that keeps what is typed until it is left. */
function Typed({ label, value, onChange, narrow }: { label: string; value: string; onChange: (text: string) => void; narrow?: boolean }) {
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <input
      aria-label={label}
      className={narrow ? 'narrow' : ''}
      value={typed ?? value}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => {
        if (typed !== null && typed !== value) onChange(typed)
        setTyped(null)
      }}
    />
  )
}
