import { useRef, useState } from 'react'
import { api, need, Refusal, type Rig, type Schemas, upload } from '../api/client'
import { useKept } from '../api/kept'
import { mappingOf, type Mapping } from './LogMapping'

type Uploaded = Schemas['UploadView']
type Beginning = Schemas['BeginningView']

/** A file as it can be shown: from its beginning while the rest is still coming (no number yet), or as it was understood here. */
interface Shown {
  id: number | null
  name: string
  was: string
  sheet: string
  sheets: string[]
  guess: Schemas['Guess']
}

const LIMIT = 200 * 1024 * 1024
/** Of a longer file the beginning is looked at first. */
const BEGINNING = 65_536

const tooLarge = (size: number) =>
  new Refusal(
    'The file is too large.',
    [
      {
        field: 'file',
        reason: `${Math.round(size / 1048576)} MB is more than Rellux takes in one piece`,
        accepted: 'up to 200 MB; split a longer log by time',
      },
    ],
    413,
  )

function lookAt(beginning: File, signal: AbortSignal, changed: Partial<Mapping> = {}): Promise<Beginning> {
  const corrected = Object.entries({ ...changed }).map(([name, value]) => [name, String(value)])
  return upload<Beginning>(`/api/v1/uploads/beginning?${new URLSearchParams(corrected)}`, beginning, () => undefined, signal)
}

/** What a run of a file is called. */
export const nameOf = (file: string) => file.replace(/\.[^.]+$/, '')

/** One log file on its way in: sent, shown while it comes, how it is read corrected by hand. */
export function useLogFile(rig: Rig) {
  const [kept, keep] = useKept<Shown | null>(`log file ${rig.slug}`, null)
  const [mapping, setMapping] = useKept<Mapping | null>(`mapping ${rig.slug}`, null)
  const [name, setName] = useKept(`log name ${rig.slug}`, '')
  const [share, setShare] = useState<number | null>(null)
  const [error, setError] = useState<unknown>(null)
  const [whole, setWhole] = useState<File | null>(null)
  const sending = useRef<AbortController | null>(null)
  const beginning = useRef<File | null>(null)
  const newest = useRef<Shown | null>(kept)
  const show = (next: Shown | null) => {
    newest.current = next
    keep(next)
  }

  function clear() {
    sending.current?.abort()
    setShare(null)
    show(null)
    setMapping(null)
    setName('')
  }

  function understood(next: Shown, remembered: Mapping | null) {
    show(next)
    setMapping(remembered ?? mappingOf(next.guess))
    setName(nameOf(next.name))
  }

  /** Take a file, of a spreadsheet one sheet. Its upload, once all of it is here; null where it was refused or stopped. */
  async function take(chosen: File, sheet = ''): Promise<Uploaded | null> {
    clear()
    setWhole(chosen)
    setError(chosen.size > LIMIT ? tooLarge(chosen.size) : null)
    if (chosen.size > LIMIT) return null
    const stop = new AbortController()
    sending.current = stop
    setShare(0)
    beginning.current = new File([chosen.slice(0, BEGINNING)], chosen.name)
    const ahead =
      chosen.size > BEGINNING &&
      lookAt(beginning.current, stop.signal).then(({ guess, remembered }) => {
        if (guess && !newest.current) understood({ id: null, name: chosen.name, was: '', sheet: '', sheets: [], guess }, remembered)
      })
    try {
      const place = `/api/v1/uploads?${new URLSearchParams({ sheet })}`
      const arrived = upload<Uploaded>(place, chosen, setShare, stop.signal).then((answer) => {
        if (newest.current) show({ ...newest.current, id: answer.id })
        else understood(answer, answer.remembered)
        return answer
      })
      await Promise.all([arrived, ahead])
      return await arrived
    } catch (refused) {
      if (stop.signal.aborted) return null
      clear()
      setError(refused)
      return null
    } finally {
      if (sending.current === stop) setShare(null)
    }
  }

  /** Delimiter, decimal mark or the table's beginning corrected by hand: the columns are looked at anew. */
  async function reread(changed: Partial<Mapping>) {
    if (!kept || !mapping) return
    const { delimiter, decimal, skip } = { ...mapping, ...changed }
    setMapping({ ...mapping, ...changed })
    setError(null)
    try {
      const guess =
        kept.id === null
          ? (await lookAt(beginning.current!, sending.current!.signal, { delimiter, decimal, skip })).guess!
          : await need(api.GET('/api/v1/uploads/{number}', { params: { path: { number: kept.id }, query: { delimiter, decimal, skip } } }))
      if (newest.current) show({ ...newest.current, guess })
      setMapping({ ...mappingOf(guess), ...changed })
    } catch (refused) {
      setError(refused)
    }
  }

  /** While its rest is coming it is only shown: after a reload there is nothing of it. */
  const file = kept && (kept.id !== null || share !== null) ? kept : null
  /** Another sheet of it, while the file is at hand: after a reload it has to be chosen again. */
  const takeSheet = whole && ((sheet: string) => void take(whole, sheet))
  return { file, mapping, setMapping, name, setName, share, error, take, takeSheet, reread, clear }
}
