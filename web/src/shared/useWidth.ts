import { useEffect, useState } from 'react'

/** How wide an element is; what is `around` it (scroll bars, a border) not counted. */
export function useWidth(element: React.RefObject<HTMLElement | null>, usual = 744, around = 0): number {
  const [width, setWidth] = useState(usual)
  useEffect(() => {
    const watched = element.current
    if (!watched || typeof ResizeObserver === 'undefined') return
    const observer = new ResizeObserver(() => setWidth(watched.offsetWidth - around))
    observer.observe(watched)
    return () => observer.disconnect()
  }, [element, around])
  return width
}
