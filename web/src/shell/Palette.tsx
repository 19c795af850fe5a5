import Dialog from '@mui/material/Dialog'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { useRefresh, useRigs } from '../api/hooks'
import { useQuestions } from '../questions/data'
import { usePreferences } from './preferences'
import { SAFE_OFF } from './safeOffEvent'
import { STATION_NAME, STATIONS, type Station } from './stations'
import { onceThere } from './usePage'
import './palette.css'

const intoView = (element: HTMLElement | null) => {
  element?.scrollIntoView({ block: 'nearest' })
}

interface Command {
  text: string
  /** Other words for it. */
  also?: string
  run: () => void
}

const ALSO: Partial<Record<Station, string>> = {
  purpose: 'temperature limits rig description',
  parts: 'heater relay ssr breaker fuse wire plug sensor sizing',
  wiring: 'connections terminals diagram schematic circuit faults meter',
  proving: 'power-up first heat test measure earth insulation continuity commissioning sign',
  setup: 'parameters settings controller menu configuration limits',
  guarding: 'alarms limiter fuse ladder overtemperature proof test safety',
  tuning: 'pid hysteresis identify autotune gain',
  profiles: 'programme program ramp soak schedule segments cure anneal reflow firing',
  runs: 'record log chart trend live',
  calibration: 'offset thermometer correction reference',
  book: 'history log journal export copy archive remove',
}

/** Type a few letters, press Enter. */
export default function Palette({ slug, onClose }: { slug?: string; onClose: () => void }) {
  const navigate = useNavigate()
  const { toggleTheme, toggleUnit } = usePreferences()
  const { data: rigs } = useRigs()
  const [typed, setTyped] = useState('')
  const [at, setAt] = useState(0)
  const { data: questions } = useQuestions()
  const refresh = useRefresh(slug ?? '')

  const commands = useMemo<Command[]>(() => {
    const go = (path: string) => () => void navigate(path)
    const params = { path: { slug: slug ?? '' } }
    const record = async () => {
      await api.POST('/api/v1/rigs/{slug}/runs', { params, body: {} })
      await refresh()
      void navigate(`/rigs/${slug}/runs`)
    }
    const undo = async () => {
      const { data: rig } = await api.GET('/api/v1/rigs/{slug}', { params })
      if (rig) await api.POST('/api/v1/rigs/{slug}/wiring/undo', { params, body: { revision: rig.revision } })
      await refresh()
      void navigate(`/rigs/${slug}/wiring`)
    }
    const here: Command[] = slug
      ? [
          ...STATIONS.map((s) => ({ text: STATION_NAME[s], also: ALSO[s], run: go(`/rigs/${slug}/${s}`) })),
          { text: 'Heat off', also: 'stop emergency safe', run: () => window.dispatchEvent(new Event(SAFE_OFF)) },
          { text: 'Bench view', also: 'big reading phone live', run: go(`/rigs/${slug}/bench`) },
          { text: 'Record a run', also: 'start log', run: () => void record() },
          {
            text: 'New wire',
            also: 'add connection join',
            run: () => (
              void navigate(`/rigs/${slug}/wiring`),
              void onceThere('form[aria-label="New wire"] input', (field) => field.focus())
            ),
          },
          { text: 'Take back the last edit of the wiring', also: 'undo', run: () => void undo() },
          { text: 'Import a log', also: 'bring in data', run: go(`/rigs/${slug}/runs/import`) },
          { text: 'Export the whole rig', also: 'save file zip backup', run: () => window.location.assign(`/api/v1/rigs/${slug}/export`) },
        ]
      : []
    const others = (rigs ?? []).map((r) => ({ text: `Rig: ${r.name}`, run: go(`/rigs/${r.slug}`) }))
    return [
      ...here,
      ...others,
      { text: 'Workshop', also: 'home rigs overview', run: go('/') },
      { text: 'Zones of a chamber', also: 'several controllers tube multi-zone', run: go('/zones') },
      { text: 'Wall screen', also: 'several rigs big live', run: go('/wall') },
      { text: 'New rig', also: 'add oven kiln plate', run: go('/new') },
      { text: 'Bench questions', also: 'calculator', run: go('/questions') },
      { text: 'Equipment: where each piece is and was', also: 'probe sensor limiter relay reference', run: go('/equipment') },
      { text: 'Your own parts and their terminal numbers', also: 'library', run: go('/library') },
      { text: 'Controllers and their menus', also: 'describe manual codes pages keys', run: go('/controllers') },
      { text: 'Register maps of controllers', also: 'modbus address find out', run: go('/maps') },
      ...(questions ?? []).map((q) => ({ text: q.title, also: `question ${q.topic} ${q.key}`, run: go(`/questions/${q.key}`) })),
      { text: 'Print this page', also: 'paper pdf', run: () => setTimeout(() => window.print(), 200) },
      { text: 'Change between °C and °F', also: 'unit celsius fahrenheit', run: toggleUnit },
      { text: 'Change between day and night shift', also: 'dark light theme', run: toggleTheme },
    ]
  }, [navigate, questions, refresh, rigs, slug, toggleTheme, toggleUnit])

  const words = typed.toLowerCase().split(/\s+/)
  const found = commands.filter((c) => words.every((w) => `${c.text} ${c.also ?? ''}`.toLowerCase().includes(w)))
  const chosen = Math.min(at, found.length - 1)
  const run = (command?: Command) => {
    onClose()
    command?.run()
  }

  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Commands">
      <input
        className="palette-input"
        autoFocus
        role="combobox"
        aria-expanded
        aria-controls="palette-list"
        aria-activedescendant={found.length ? `palette-${chosen}` : undefined}
        aria-label="Command"
        placeholder="Where to, or what?"
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value)
          setAt(0)
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') setAt(Math.min(chosen + 1, found.length - 1))
          else if (e.key === 'ArrowUp') setAt(Math.max(chosen - 1, 0))
          else if (e.key === 'Enter') run(found[chosen])
          else return
          e.preventDefault()
        }}
      />
      <ul className="palette-list" id="palette-list" role="listbox" aria-label="Commands">
        {found.map((c, i) => (
          <li
            key={c.text}
            ref={i === chosen ? intoView : null}
            id={`palette-${i}`}
            role="option"
            aria-selected={i === chosen}
            onClick={() => run(c)}
          >
            {c.text}
          </li>
        ))}
        {!found.length && <li className="dim">Nothing like that</li>}
      </ul>
    </Dialog>
  )
}
