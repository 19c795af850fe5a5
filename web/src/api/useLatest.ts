import { useEffect, useRef, useState } from 'react'

export interface Latest<Out> {
  /** The newest answer there is, also while a newer one is on its way. */
  data: Out | undefined
  error: unknown
  /** What is shown is of an older question. */
  behind: boolean
}

/** Ask again whenever the question changes, one at a time: what changed meanwhile is asked once, as it is then. */
export function useLatest<In, Out>(question: In | null, ask: (question: In) => Promise<Out>): Latest<Out> {
  const wanted = JSON.stringify(question)
  const [found, setFound] = useState<{ of: string; data?: Out; error?: unknown }>({ of: '' })
  const newest = useRef({ wanted, question, ask })
  const busy = useRef(false)
  const gone = useRef(false)
  useEffect(() => {
    newest.current = { wanted, question, ask }
  })
  useEffect(() => {
    gone.current = false
    const go = async () => {
      const now = newest.current
      if (busy.current || now.question === null || gone.current) return
      busy.current = true
      try {
        const data = await now.ask(now.question)
        setFound({ of: now.wanted, data })
      } catch (error) {
        setFound((before) => ({ of: now.wanted, data: before.data, error }))
      } finally {
        busy.current = false
      }
      if (newest.current.wanted !== now.wanted) void go()
    }
    void go()
    return () => {
      gone.current = true
    }
  }, [wanted])
  return { data: found.data, error: found.of === wanted ? found.error : undefined, behind: found.of !== wanted }
}
