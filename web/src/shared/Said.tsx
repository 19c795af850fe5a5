import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'

/** A message of the server in the unit and the decimal mark of its reader. */
export function Said({ children }: { children: string }) {
  const { unit } = usePreferences()
  return said(children, unit)
}
