import { useLocation, useNavigate } from 'react-router'

/** What is being looked at, as a part of the address: it can be reloaded, kept and sent to somebody. */
export function useInAddress<T extends string>(name: string, otherwise: T, allowed?: readonly T[]): [T, (next: T) => void] {
  const { search } = useLocation()
  const change = useAddress()
  const found = new URLSearchParams(search).get(name) as T | null
  const value = found !== null && (!allowed || allowed.includes(found)) ? found : otherwise
  return [value, (next) => change({ [name]: next === otherwise ? null : next })]
}

/** Changes parts of the address in place; ``null`` takes one away. */
export function useAddress() {
  const navigate = useNavigate()
  return (parts: Record<string, string | null>) => {
    const query = new URLSearchParams(window.location.search) // of now: several changes may come in one turn
    for (const [name, value] of Object.entries(parts)) {
      if (value === null) query.delete(name)
      else query.set(name, value)
    }
    void navigate({ search: query.toString() }, { replace: true })
  }
}
