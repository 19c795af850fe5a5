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
  const [kept, keep] = useKept<Shown | null>(`log ${rig.slug}`, null)
  const [mapping, setMapping] = useKept<Mapping | null>(`mapping ${rig.slug}`, null)
  const [name, setName] = useKept(`log name ${rig.slug}`, '')
  const [share, setShare] = useState<number | null>(null)
  const [error, setError] = useState<unknown>(null)
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

  /** Take a file. Its upload, once all of it is here; null where it was refused or stopped. */
  async function take(chosen: File): Promise<Uploaded | null> {
    clear()
    setError(chosen.size > LIMIT ? tooLarge(chosen.size) : null)
    if (chosen.size > LIMIT) return null
    const stop = new AbortController()
    sending.current = stop
    setShare(0)
    beginning.current = new File([chosen.slice(0, BEGINNING)], chosen.name)
    const ahead =
      chosen.size > BEGINNING &&
      lookAt(beginning.current, stop.signal).then(({ guess, remembered }) => {
        if (guess && !newest.current) understood({ id: null, name: chosen.name, was: '', guess }, remembered)
      })
    try {
      const arrived = upload<Uploaded>('/api/v1/uploads', chosen, setShare, stop.signal).then((answer) => {
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
  return { file, mapping, setMapping, name, setName, share, error, take, reread, clear }
}
