import { useLayoutEffect, useState } from 'react'

/** How wide an element is, already at the first painting; what is `around` it (scroll bars, a border) not counted. */
export function useWidth(element: React.RefObject<HTMLElement | null>, usual = 744, around = 0): number {
  const [width, setWidth] = useState(usual)
  useLayoutEffect(() => {
    const watched = element.current
    if (!watched || typeof ResizeObserver === 'undefined') return
    const measure = () => setWidth(watched.offsetWidth - around)
    measure()
    const observer = new ResizeObserver(measure)
    observer.observe(watched)
    return () => observer.disconnect()
  }, [element, around])
  return width
}
