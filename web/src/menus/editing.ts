import type { Schemas } from '../api/client'
import type { Description, Gesture, Group, Page } from './data'

const tap = (key: string): Gesture => ({ press: 'tap', key, seconds: 0 })

export const EMPTY: Description = {
  title: '',
  keys: ['SET', '▲', '▼'],
  terminals: [],
  programme: null,
  offset_school: '',
  hysteresis_school: '',
  anti_windup: '',
  groups: [
    {
      key: 'home', title: 'Home', next: tap('SET'), previous: null, after_last: 'first', leave: null, leaves_to: '', outputs_stop: false,
      pages: [blank('reading', '', 'Reading')],
    },
  ],
  ways: [],
  editing: {
    up: '▲', down: '▼', opens: null, shift: '', from_first: false, carry: false, per_second: 5, round: true, kept_by: ['next'], store: null,
    moves_on: false, pause_s: 0,
  },
  digits: 4,
  timeout_s: 0,
  lamps: [],
  errors: [],
  note: '',
  format: 1,
  options: [],
  language: { form: 'standard', proportional: 'band', times: 'seconds', rate: 'second', fahrenheit: false, span_c: 400, look_s: 1, full: 100 },
} // prettier-ignore

function blank(key: string, code: string, title: string): Page {
  return {
    key, code, title, sets: [], choices: [], low: 0, high: 0, decimals: 0, scale: 1, default: 0, counted: 'plain', low_from: '', high_from: '',
    shown_when: [], effects: [], forgets: false, register: null, manual: '', option: '',
  } // prettier-ignore
}

/** Other names on the keys: what was done with the key in that place is done with it still. */
export function renamed(made: Description, keys: string[]): Description {
  const now = (key: string) => (key && made.keys.includes(key) ? (keys[made.keys.indexOf(key)] ?? key) : key)
  const of = <G extends Gesture | null>(gesture: G): G =>
    gesture ? { ...gesture, key: gesture.key.split('+').map(now).join('+') } : gesture
  const { editing } = made
  return {
    ...made,
    keys,
    groups: made.groups.map((g) => ({ ...g, next: of(g.next), previous: of(g.previous), leave: of(g.leave) })),
    ways: made.ways.map((w) => ({ ...w, gesture: of(w.gesture) })),
    editing: {
      ...editing,
      up: now(editing.up),
      down: now(editing.down),
      shift: now(editing.shift),
      opens: of(editing.opens),
      store: of(editing.store),
    },
  }
}

/** A group more, entered from home by holding the first key. */
export function withGroup(made: Description, title: string, pages: Page[]): Description {
  const key = free(
    made.groups.map((g) => g.key),
    'group',
  )
  const first = made.keys[0] ?? ''
  const hold = made.groups.length + 2
  const group: Group = {
    ...made.groups[0]!,
    key,
    title: title || `Group ${made.groups.length + 1}`,
    pages,
    leave: { press: 'hold', key: first, seconds: 2 },
  }
  return {
    ...made,
    groups: [...made.groups, group],
    ways: [
      ...made.ways,
      { gesture: { press: 'hold', key: first, seconds: hold }, at: made.groups[0]!.key, to: key, at_page: '', when: [] },
    ],
  }
}

export function withPages(made: Description, at: number, pages: Page[]): Description {
  return { ...made, groups: made.groups.map((g, i) => (i === at ? { ...g, pages } : g)) }
}

export function without(made: Description, at: number): Description {
  const gone = made.groups[at]!.key
  return { ...made, groups: made.groups.filter((_, i) => i !== at), ways: made.ways.filter((w) => w.to !== gone && w.at !== gone) }
}

/** The page once more below itself, with a key of its own. */
export function doubled(made: Description, at: number, i: number): Description {
  const pages = made.groups[at]!.pages
  const taken = made.groups.flatMap((g) => g.pages.map((p) => p.key))
  const copy = { ...pages[i]!, key: free(taken, pages[i]!.key) }
  return withPages(made, at, [...pages.slice(0, i + 1), copy, ...pages.slice(i + 1)])
}

const free = (taken: string[], key: string) => {
  let n = 2
  while (taken.includes(`${key}-${n}`)) n++
  return `${key}-${n}`
}

/** The pasted list: what belongs to groups that are there by their title goes there, the rest becomes groups. */
export function withPasted(made: Description, groups: Schemas['PastedGroup'][]): Description {
  return groups.reduce((so_far, g) => {
    const at = so_far.groups.findIndex((o) => o.title.toLowerCase() === g.title.toLowerCase())
    return at < 0 ? withGroup(so_far, g.title, g.pages) : withPages(so_far, at, [...so_far.groups[at]!.pages, ...g.pages])
  }, made)
}

/** Choices as they are written in one field: `code=value, code=value`; a mark of exclamation guards, `@` names the option it needs. */
export const choicesText = (page: Page) =>
  page.choices
    .map((c) => {
      const means = c.values[0] || c.means
      return `${c.guarded ? '!' : ''}${c.code}${means ? `=${means}` : ''}${c.option ? ` @${c.option}` : ''}`
    })
    .join(', ')

export function choicesOf(text: string, page: Page, values: string[]): Page['choices'] {
  return text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part) => {
      const guarded = part.startsWith('!')
      const [written = '', option = ''] = part
        .replace(/^!/, '')
        .split(' @')
        .map((s) => s.trim())
      const [code, said = ''] = written.split('=').map((s) => s.trim()) as [string, string?]
      const value = values.find((v) => v.toLowerCase() === said.toLowerCase())
      return { code, means: value ? '' : said, values: page.sets.length ? [value ?? ''] : [], guarded, option }
    })
}

const allPages = (made: Description) => made.groups.flatMap((g) => g.pages)
const codeOf = (made: Description, key: string) => {
  const page = allPages(made).find((p) => p.key === key)
  return page ? page.code || page.key : key
}
/** The page that is meant by a code, else what was typed: it is then refused by its name. */
const keyOf = (made: Description, typed: string) =>
  (
    allPages(made).find((p) => p.code === typed || p.key === typed) ??
    allPages(made).find((p) => p.code.toLowerCase() === typed.toLowerCase())
  )?.key ?? typed
const valueText = (page: Page | undefined, counts: number) =>
  page?.choices[counts]?.code ?? (page ? (counts / 10 ** page.decimals).toFixed(page.decimals) : String(counts))
const countsIn = (page: Page | undefined, typed: string) => {
  const choice = page?.choices.findIndex((c) => c.code.toLowerCase() === typed.toLowerCase()) ?? -1
  const number = Math.round(Number(typed.replace(',', '.')) * 10 ** (page?.decimals ?? 0))
  return choice >= 0 ? choice : Number.isFinite(number) ? number : -1
}
const listed = (text: string) =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)

/** When a page is there, as `HOw=FLIP|SHAP, cOd=27`: all of it must hold. */
export const whenText = (made: Description, page: Page) =>
  page.shown_when
    .map((c) => {
      const other = allPages(made).find((p) => p.key === c.page)
      return `${codeOf(made, c.page)}=${c.counts.map((n) => valueText(other, n)).join('|')}`
    })
    .join(', ')

export const whenOf = (made: Description, text: string): Page['shown_when'] =>
  listed(text).map((part) => {
    const [code = '', values = ''] = part.split('=').map((s) => s.trim())
    const page = keyOf(made, code)
    const other = allPages(made).find((p) => p.key === page)
    return { page, counts: values.split('|').map((v) => countsIn(other, v.trim())) }
  })

const DEFAULT = 'default'
const CONVERTED = 'converted'

/** What changing a page does to others, as `top=default, SP=converted, b=5 if yES|no`. */
export const effectsText = (made: Description, page: Page) =>
  page.effects
    .map((e) => {
      const other = allPages(made).find((p) => p.key === e.page)
      const to = e.kind === 'defaults' ? DEFAULT : e.kind === 'converts' ? CONVERTED : valueText(other, e.counts)
      const when = e.when.length ? ` if ${e.when.map((n) => valueText(page, n)).join('|')}` : ''
      return `${codeOf(made, e.page)}=${to}${when}`
    })
    .join(', ')

export const effectsOf = (made: Description, page: Page, text: string): Page['effects'] =>
  listed(text).map((part) => {
    const [does = '', when = ''] = part.split(/\s+if\s+/)
    const [code = '', to = ''] = does.split('=').map((s) => s.trim())
    const key = keyOf(made, code)
    const kind = to === DEFAULT || !to ? 'defaults' : to === CONVERTED ? 'converts' : 'sets'
    const other = allPages(made).find((p) => p.key === key)
    return {
      page: key,
      kind,
      counts: kind === 'sets' ? countsIn(other, to) : 0,
      when: when ? when.split('|').map((v) => countsIn(page, v.trim())) : [],
    }
  })

/** A page by its code, for a bound; empty for none. */
export const boundOf = (made: Description, typed: string) => (typed.trim() ? keyOf(made, typed.trim()) : '')
export const boundText = (made: Description, key: string) => (key ? codeOf(made, key) : '')
