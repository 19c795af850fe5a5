import { useEffect, useRef } from 'react'
import { useLocation } from 'react-router'
import { useRigs } from '../api/hooks'
import { useQuestions } from '../questions/data'
import { STATION_NAME, type Station } from './stations'

const PLACES: Record<string, string> = {
  '': 'Workshop',
  new: 'New rig',
  library: 'Parts library',
  equipment: 'Equipment',
  controllers: 'Controllers',
  maps: 'Register maps',
  questions: 'Bench questions',
  wall: 'Wall screen',
  zones: 'Zones of a chamber',
}

/** What the page at an address is called, in the browser's tab too. */
function titleOf(pathname: string, rigs: { slug: string; name: string }[], questions: { key: string; title: string }[]): string {
  const [place = '', second = '', third = '', fourth] = pathname.split('/').slice(1)
  const question = (key: string) => questions.find((q) => q.key === key)?.title
  if (place !== 'rigs') return [question(second) ?? PLACES[place] ?? 'Nothing here', 'Rellux'].join(' · ')
  const station =
    third === 'bench' ? 'Bench view' : third === 'runs' && fourth === 'import' ? 'Import a log' : STATION_NAME[third as Station]
  return [third === 'parts' && fourth ? question(fourth) : undefined, station, rigs.find((r) => r.slug === second)?.name, 'Rellux']
    .filter(Boolean)
    .join(' · ')
}

/** Names the page, and after going to another one puts the focus on its heading. */
export function usePage() {
  const { pathname } = useLocation()
  const { data: rigs = [] } = useRigs()
  const { data: questions = [] } = useQuestions()
  const title = titleOf(pathname, rigs, questions)
  useEffect(() => {
    document.title = title
  }, [title])
  const before = useRef(pathname)
  useEffect(() => {
    if (before.current === pathname) return
    before.current = pathname
    return onceThere('main h1', (heading) => {
      heading.tabIndex = -1
      heading.focus({ preventScroll: true })
      document.querySelectorAll('.rig, .rig > main, .page').forEach((scrolled) => (scrolled.scrollTop = 0))
    })
  }, [pathname])
}

/** Does something with an element as soon as it is on the page; gives up after five seconds. */
export function onceThere(selector: string, then: (element: HTMLElement) => void) {
  const timer = setInterval(() => {
    const found = document.querySelector<HTMLElement>(selector)
    if (!found) return
    clearInterval(timer)
    then(found)
  }, 50)
  const end = setTimeout(() => clearInterval(timer), 5000)
  return () => {
    clearInterval(timer)
    clearTimeout(end)
  }
}
