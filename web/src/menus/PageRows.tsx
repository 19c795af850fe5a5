import { Fragment, useState } from 'react'
import type { Schemas } from '../api/client'
import type { Description, Page } from './data'
import { boundOf, boundText, choicesOf, choicesText, doubled, effectsOf, effectsText, whenOf, whenText, withPages } from './editing'

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
  const [opened, setOpened] = useState('')
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
              <Fragment key={page.key}>
                <tr className={wrong.length ? 'bad' : ''}>
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
                      aria-expanded={opened === page.key}
                      aria-label={`More of ${page.code}`}
                      onClick={() => setOpened(opened === page.key ? '' : page.key)}
                    >
                      {page.shown_when.length || page.effects.length || page.option ? 'more •' : 'more'}
                    </button>
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
                {opened === page.key && (
                  <tr className="more">
                    <td colSpan={9}>
                      <div className="row">
                        <label>
                          There only while
                          <Typed
                            label={`When ${page.code} is there`}
                            value={whenText(made, page)}
                            onChange={(t) => set(i, { shown_when: whenOf(made, t) })}
                          />
                          <span className="small dim">CODE=value|value, all of it</span>
                        </label>
                        <label>
                          Changing it sets
                          <Typed
                            label={`What changing ${page.code} does`}
                            value={effectsText(made, page)}
                            onChange={(t) => set(i, { effects: effectsOf(made, page, t) })}
                          />
                          <span className="small dim">CODE=default, CODE=converted, CODE=value if choice</span>
                        </label>
                        {!page.choices.length && (
                          <>
                            <label>
                              It counts
                              <select
                                aria-label={`What ${page.code} counts`}
                                value={page.counted}
                                onChange={(e) => set(i, { counted: e.target.value as Page['counted'] })}
                              >
                                <option value="plain">no degrees</option>
                                <option value="temperature">a temperature</option>
                                <option value="difference">degrees between</option>
                              </select>
                            </label>
                            <label>
                              One of it is
                              <Typed
                                label={`Scale of ${page.code}`}
                                value={String(page.scale)}
                                onChange={(t) => set(i, { scale: Number(t.replace(',', '.')) || 1 })}
                                narrow
                              />
                              <span className="small dim">60: minutes of a time</span>
                            </label>
                            <label>
                              Not below page
                              <Typed
                                label={`What ${page.code} is not below`}
                                value={boundText(made, page.low_from)}
                                onChange={(t) => set(i, { low_from: boundOf(made, t) })}
                                narrow
                              />
                            </label>
                            <label>
                              Not above page
                              <Typed
                                label={`What ${page.code} is not above`}
                                value={boundText(made, page.high_from)}
                                onChange={(t) => set(i, { high_from: boundOf(made, t) })}
                                narrow
                              />
                            </label>
                            <label>
                              <input
                                type="checkbox"
                                aria-label={`${page.code} is a code, forgotten when left`}
                                checked={page.forgets}
                                onChange={(e) => set(i, { forgets: e.target.checked })}
                              />{' '}
                              a code, forgotten when left
                            </label>
                          </>
                        )}
                        {made.options.length > 0 && (
                          <label>
                            Only with
                            <select
                              aria-label={`What ${page.code} is there with`}
                              value={page.option}
                              onChange={(e) => set(i, { option: e.target.value })}
                            >
                              <option value="">in every one</option>
                              {made.options.map((o) => (
                                <option key={o}>{o}</option>
                              ))}
                            </select>
                          </label>
                        )}
                        <label>
                          Register
                          <Typed
                            label={`Register of ${page.code}`}
                            value={page.register == null ? '' : String(page.register)}
                            onChange={(t) => set(i, { register: t.trim() ? Math.round(Number(t)) || 0 : null })}
                            narrow
                          />
                        </label>
                        <label>
                          In the manual
                          <Typed
                            label={`Place of ${page.code} in the manual`}
                            value={page.manual}
                            onChange={(manual) => set(i, { manual })}
                          />
                        </label>
                      </div>
                    </td>
                  </tr>
                )}
              </Fragment>
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
