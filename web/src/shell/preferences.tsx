import { createContext, type ReactNode, use, useEffect, useMemo, useState } from 'react'
import type { Theme } from '../look/heat'
import type { Unit } from '../units/quantity'

interface Chosen {
  unit: Unit
  theme: Theme
  /** Whether single letters do something; off for those whose speech input or reader types them. */
  letters: boolean
  toggleLetters: () => void
  toggleUnit: () => void
  toggleTheme: () => void
}

const Context = createContext<Chosen | null>(null)

function remembered<T extends string>(key: string, allowed: readonly T[], otherwise: T): T {
  const stored = localStorage.getItem(key) as T | null
  return stored && allowed.includes(stored) ? stored : otherwise
}

/** Unit, theme and keys, remembered in this browser. */
export function Preferences({ children }: { children: ReactNode }) {
  const [unit, setUnit] = useState<Unit>(() => remembered('unit', ['C', 'F'], 'C'))
  const [theme, setTheme] = useState<Theme>(() => remembered('theme', ['day', 'night'], 'day'))
  const [keys, setKeys] = useState<'on' | 'off'>(() => remembered('keys', ['on', 'off'], 'on'))
  useEffect(() => {
    localStorage.setItem('keys', keys)
  }, [keys])
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
      letters: keys === 'on',
      toggleLetters: () => setKeys((k) => (k === 'on' ? 'off' : 'on')),
      toggleUnit: () => setUnit((u) => (u === 'C' ? 'F' : 'C')),
      toggleTheme: () => setTheme((t) => (t === 'day' ? 'night' : 'day')),
    }),
    [unit, theme, keys],
  )
  return <Context value={value}>{children}</Context>
}

export function usePreferences(): Chosen {
  const value = use(Context)
  if (!value) throw new Error('usePreferences outside Preferences')
  return value
}
