import { lazy, type ReactNode, Suspense, useEffect, useState } from 'react'
import { Link, useLocation, useNavigate } from 'react-router'
import { useRigs, useEffectOf } from '../api/hooks'
import { wordsOf } from '../shared/effect'
import { useLive } from '../api/live'
import { usePreferences } from './preferences'
import { Armed, RigLive } from './RigLive'
import { SAFE_OFF } from './safeOffEvent'
import { SafeOffNotice } from './SafeOffNotice'
import { stationAt } from './stations'
import { usePage } from './usePage'
import { useSafeOff } from './useSafeOff'

const Palette = lazy(() => import('./Palette'))
const KeyMap = lazy(() => import('./KeyMap'))

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

/** Something is open that wants an answer first. */
const asking = () => document.querySelector('[role=dialog], [role=alertdialog]') !== null

/** Top bar, keyboard, palette. */
export function Shell({ children }: { children: ReactNode }) {
  const { unit, toggleUnit, theme, toggleTheme, letters } = usePreferences()
  const [open, setOpen] = useState<'palette' | 'keys' | null>(null)
  const navigate = useNavigate()
  usePage()
  const slug = /^\/rigs\/([^/]+)/.exec(useLocation().pathname)?.[1]

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault()
        setOpen('palette')
        return
      }
      if (!letters || typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || asking()) return
      if (event.key === '?') setOpen('keys')
      else if (event.key === 'u') toggleUnit()
      else if (event.key === 'n') toggleTheme()
      else if (event.key === 'w') void navigate('/')
      else if (slug && stationAt(event.key)) void navigate(`/rigs/${slug}/${stationAt(event.key)}`)
      else return
      event.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [letters, navigate, slug, toggleTheme, toggleUnit])

  return (
    <div className="shell">
      <header className="top">
        <a className="skip" href="#work">
          Skip to the work
        </a>
        <Link className="brand" to="/">
          Rellux
        </Link>
        <nav aria-label="Where you are">
          <Link to="/">Workshop</Link>
          {slug && <RigName slug={slug} />}
        </nav>
        <span className="grow" />
        {slug && <RigLive slug={slug} />}
        {slug && <Armed key={slug} slug={slug} />}
        {slug && <HeatOff key={`off ${slug}`} slug={slug} />}
        <button className="tool" onClick={() => setOpen('palette')} aria-label="Commands, Control K">
          Ctrl K
        </button>
        <button className="tool" onClick={toggleUnit} aria-label={`Temperatures in °${unit}; press to change`}>
          °{unit}
        </button>
        <button className="tool" onClick={toggleTheme} aria-label={theme === 'day' ? 'Night shift' : 'Day'}>
          {theme === 'day' ? '☾' : '☀'}
        </button>
        <button className="tool" onClick={() => setOpen('keys')} aria-label="Keyboard">
          ?
        </button>
      </header>
      {children}
      <Suspense>
        {open === 'palette' && <Palette slug={slug} onClose={() => setOpen(null)} />}
        {open === 'keys' && <KeyMap onClose={() => setOpen(null)} />}
      </Suspense>
    </div>
  )
}

/** The safe-off of a linked rig, from every page: by everybody, armed or not. */
function HeatOff({ slug }: { slug: string }) {
  const live = useLive(slug)
  const { state, press, close } = useSafeOff(slug)
  useEffect(() => {
    window.addEventListener(SAFE_OFF, press)
    return () => window.removeEventListener(SAFE_OFF, press)
  })
  const effect = useEffectOf(slug)
  const watches = effect === 'watches'
  // a rig that only watches has nothing to switch off, unless its controller says otherwise
  if (!live?.safe_off || (watches && (live.mode ?? 'off') === 'off')) return null
  return (
    <>
      <button className={`off ${live.status === 'online' && live.mode === 'off' ? '' : 'hot'}`} onClick={press}>
        {effect ? wordsOf(effect).off : 'Off'}
      </button>
      {state && <SafeOffNotice state={state} effect={wordsOf(effect).effect} onPress={press} onClose={close} />}
    </>
  )
}

function RigName({ slug }: { slug: string }) {
  const { data } = useRigs()
  const name = data?.find((r) => r.slug === slug)?.name
  return name ? (
    <>
      <span aria-hidden className="dim">
        ›
      </span>
      <b>{name}</b>
    </>
  ) : null
}
