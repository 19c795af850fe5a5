import type { Schemas } from '../../api/client'
import { significant } from '../../units/quantity'

type Reading = Schemas['MeterReading']

const OPEN = ['ol', 'open', '∞', 'inf']
const TYPED = /^(\d+(?:[.,]\d+)?|[.,]\d+)\s*([kM]?)\s*(?:Ω|ohm|V)?$/

/** What somebody typed off a meter: null for no connection, undefined where it is no reading. 4.7k and 1.2 M are understood. */
export function typedValue(text: string): number | null | undefined {
  const word = text.trim()
  if (OPEN.includes(word.toLowerCase())) return null
  const found = TYPED.exec(word)
  if (!found) return undefined
  return Number(found[1]!.replace(',', '.')) * ({ k: 1e3, M: 1e6 }[found[2]!] ?? 1)
}

/** Whether the supply is on in a state; else it is off, with nothing moved or with a part moved (“F1 open”). */
export const isLive = (r: Reading | undefined, state: string) => !!r && state in r.volts

/** What the meter should show between two terminals in a state; ohms as a range where the kind of load leaves one. */
export function expected(r: Reading, state: string): string {
  if (isLive(r, state)) {
    const volts = r.volts[state]
    return volts == null ? 'undefined' : `${Math.round(volts)} V`
  }
  const { least, most } = r.moved[state] ?? r.ohms
  if (least == null) return 'OL (open)'
  if (most == null) return `over ${ohms(least)}, or OL`
  if (least < 1 && most < 1) return 'under 1 Ω'
  return most > 1.3 * least ? `${ohms(least)} to ${ohms(most)}` : ohms((least + most) / 2)
}

const ohms = (ohm: number) => (ohm >= 1000 ? `${significant(ohm / 1000)} kΩ` : `${significant(ohm)} Ω`)

/** Where something typed belongs: two terminals and a state, whatever their names are made of. */
export const place = (a: string, b: string, state: string) => JSON.stringify([a, b, state])

/** Everything typed that is a reading, by its {@link place}. */
export function readings(typed: Record<string, string>): Schemas['MeasuredInputRequest'][] {
  return Object.entries(typed).flatMap(([key, text]) => {
    const [a, b, state] = JSON.parse(key) as [string, string, string]
    const value = typedValue(text)
    return value === undefined ? [] : [{ a, b, state, value }]
  })
}

/** In words, what explains the readings best. */
export function verdict(best: Schemas['Suspect']): string {
  const fine = best.subject === '' // only “nothing is wrong” is about no part
  if (best.fits) return fine ? 'All as it should be.' : `It fits this: ${best.title}.`
  return fine
    ? 'Nothing here explains it: measure again, and look at the terminals themselves.'
    : `Nothing here explains it; nearest is: ${best.title}.`
}
