import { useRef, useState } from 'react'
import { api, need } from '../api/client'
import { useRefresh } from '../api/hooks'
import { writeDeadline } from '../api/queries'

/** Without the controller's word for so long, the user is told to open the main switch. */
const CONFIRM_MS = 3000

export interface SafeOff {
  phase: 'sending' | 'confirmed' | 'unconfirmed'
  said: string
  seconds: number
  inBook: boolean
}

/** Switching the heat off. What is said never waits for an answer longer than three seconds; a later confirmation replaces it. */
export function useSafeOff(slug: string) {
  const [state, setState] = useState<SafeOff | null>(null)
  const newest = useRef(0)
  const refresh = useRefresh(slug)
  const press = () => {
    const [mine, began] = [++newest.current, Date.now()]
    const tell = (phase: SafeOff['phase'], said: string, inBook = true) =>
      mine === newest.current && setState({ phase, said, seconds: (Date.now() - began) / 1000, inBook })
    tell('sending', '')
    const late = setTimeout(() => tell('unconfirmed', 'no answer in three seconds'), CONFIRM_MS)
    need(api.POST('/api/v1/rigs/{slug}/link/safe-off', { params: { path: { slug } }, signal: writeDeadline() }))
      .then(
        (answer) => tell(answer.confirmed ? 'confirmed' : 'unconfirmed', answer.said, answer.in_book),
        (error: unknown) => tell('unconfirmed', error instanceof Error ? error.message : String(error)),
      )
      .finally(() => {
        clearTimeout(late)
        void refresh()
      })
  }
  const close = () => {
    newest.current++
    setState(null)
  }
  return { state, press, close }
}
