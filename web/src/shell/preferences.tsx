import { createContext, type ReactNode, use, useEffect, useMemo, useState } from 'react'
import type { Theme } from '../look/heat'
import type { Unit } from '../units/quantity'

interface Chosen {
  unit: Unit
  theme: Theme
  toggleUnit: () => void
  toggleTheme: () => void
}

const Context = createContext<Chosen | null>(null)

function remembered<T extends string>(key: string, allowed: readonly T[], otherwise: T): T {
  const stored = localStorage.getItem(key) as T | null
  return stored && allowed.includes(stored) ? stored : otherwise
}

/** Unit and theme, remembered in this browser. */
export function Preferences({ children }: { children: ReactNode }) {
  const [unit, setUnit] = useState<Unit>(() => remembered('unit', ['C', 'F'], 'C'))
  const [theme, setTheme] = useState<Theme>(() => remembered('theme', ['day', 'night'], 'day'))
  useEffect(() => {
    document.documentElement.dataset.theme = theme
    localStorage.setItem('theme', theme)
  }, [theme])
  useEffect(() => {
    localStorage.setItem('unit', unit)
  }, [unit])
  const value = useMemo(
    () => ({
      unit,
      theme,
      toggleUnit: () => setUnit((u) => (u === 'C' ? 'F' : 'C')),
      toggleTheme: () => setTheme((t) => (t === 'day' ? 'night' : 'day')),
    }),
    [unit, theme],
  )
  return <Context value={value}>{children}</Context>
}

export function usePreferences(): Chosen {
  const value = use(Context)
  if (!value) throw new Error('usePreferences outside Preferences')
  return value
}
