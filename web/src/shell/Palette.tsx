import Dialog from '@mui/material/Dialog'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { useWorkshop } from '../api/hooks'
import { useQuestions } from '../questions/data'
import { usePreferences } from './preferences'
import { SAFE_OFF } from './safeOffEvent'
import { STATION_NAME, STATIONS } from './stations'
import './palette.css'

interface Command {
  text: string
  run: () => void
}

/** Type a few letters, press Enter. */
export default function Palette({ slug, onClose }: { slug?: string; onClose: () => void }) {
  const navigate = useNavigate()
  const { toggleTheme, toggleUnit } = usePreferences()
  const { data: rigs } = useWorkshop()
  const [typed, setTyped] = useState('')
  const [at, setAt] = useState(0)
  const { data: questions } = useQuestions()

  const commands = useMemo<Command[]>(() => {
    const go = (path: string) => () => void navigate(path)
    const here = slug
      ? [
          ...STATIONS.map((s) => ({ text: STATION_NAME[s], run: go(`/rigs/${slug}/${s}`) })),
          { text: 'Heat off', run: () => window.dispatchEvent(new Event(SAFE_OFF)) },
          { text: 'Import a CSV log', run: go(`/rigs/${slug}/runs/import`) },
        ]
      : []
    const others = (rigs ?? []).map((r) => ({ text: `Rig: ${r.name}`, run: go(`/rigs/${r.slug}`) }))
    return [
      ...here,
      ...others,
      { text: 'Workshop', run: go('/') },
      { text: 'New rig', run: go('/new') },
      { text: 'Bench questions', run: go('/questions') },
      { text: 'Your own parts and their terminal numbers', run: go('/library') },
      ...(questions ?? []).map((q) => ({ text: q.title, run: go(`/questions/${q.key}`) })),
      { text: 'Change between °C and °F', run: toggleUnit },
      { text: 'Change between day and night shift', run: toggleTheme },
    ]
  }, [navigate, questions, rigs, slug, toggleTheme, toggleUnit])

  const words = typed.toLowerCase().split(/\s+/)
  const found = commands.filter((c) => words.every((w) => c.text.toLowerCase().includes(w)))
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
          <li key={c.text} id={`palette-${i}`} role="option" aria-selected={i === chosen} onClick={() => run(c)}>
            {c.text}
          </li>
        ))}
        {!found.length && <li className="dim">Nothing like that</li>}
      </ul>
    </Dialog>
  )
}
