import type { ReactNode } from 'react'
import { Failure, Loading } from './states'

interface Query<T> {
  data: T | undefined
  error: unknown
  refetch: () => unknown
}

interface Props<T> {
  query: Query<T>
  children: (data: T) => ReactNode
}

/** What was fetched, or that it is being fetched, or why it could not be. What is on the page already stays there when fetching it
 * anew fails: somebody may be typing in it. */
export function Fetched<T>({ query, children }: Props<T>) {
  if (query.data !== undefined) return children(query.data)
  return query.error ? <Failure error={query.error} onRetry={() => void query.refetch()} /> : <Loading />
}
