import { useEffect } from 'react'
import { api, cookie, type Live } from './client'

/** What this window calls itself when it asks to write. It lives in memory only: a reload, or a second window, is another one. */
export const THIS_WINDOW = crypto.randomUUID()

export const armedHere = (live: Live | null) => !!live?.armed && live.armed_window === THIS_WINDOW

/** A window that goes away takes its arming with it. */
export function useDisarmOnLeaving(slug: string, armed: boolean) {
  useEffect(() => {
    if (!armed) return
    const disarm = () =>
      void fetch(`/api/v1/rigs/${slug}/link/arm`, {
        method: 'POST',
        keepalive: true,
        headers: { 'Content-Type': 'application/json', 'X-CSRFToken': cookie('csrftoken') },
        body: JSON.stringify({ armed: false, window: THIS_WINDOW }),
      })
    window.addEventListener('pagehide', disarm)
    return () => window.removeEventListener('pagehide', disarm)
  }, [slug, armed])
}

export const arm = (slug: string, armed: boolean) =>
  api.POST('/api/v1/rigs/{slug}/link/arm', { params: { path: { slug } }, body: { armed, window: THIS_WINDOW } })
