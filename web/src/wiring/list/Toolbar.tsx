import { useEffect } from 'react'
import { api, need, type Rig } from '../../api/client'
import { Refused } from '../../shared/states'
import { usePreferences } from '../../shell/preferences'
import { type List, useSteps } from '../edits'
import { geometry, type Placed } from '../diagram/graph'
import { saveBlob, saveDrawing } from '../diagram/saveDrawing'

interface Props {
  rig: Rig
  wiring: List
  /** The list as it was when it was laid out. */
  drawn: List
  placed: Placed[] | null
}

/** Steps back and forth, and the list and its drawing as files. */
export function Toolbar({ rig, wiring, drawn, placed }: Props) {
  const { undo, redo, bring } = useSteps(rig)
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || (e.target as HTMLElement).closest('input, textarea, select')) return
      const again = e.key === 'y' || (e.key.toLowerCase() === 'z' && e.shiftKey)
      if (again && wiring.redo) redo.mutate(undefined)
      else if (e.key === 'z' && wiring.undo) undo.mutate(undefined)
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', key)
    return () => window.removeEventListener('keydown', key)
  }, [redo, undo, wiring.redo, wiring.undo])
  const { unit } = usePreferences()
  const sheet = async (paper: 'A4' | 'A3') => {
    const body = { paper, unit, drawings: placed!.map((p) => geometry(p, drawn)) }
    const file = (await need(
      api.POST('/api/v1/rigs/{slug}/wiring.pdf', { params: { path: { slug: rig.slug } }, body, parseAs: 'blob' }),
    )) as unknown as Blob
    saveBlob(file, `${rig.slug}-wiring-${paper}.pdf`)
  }
  return (
    <div className="toolbar row">
      <button className="button" disabled={!wiring.undo || undo.isPending} title={wiring.undo} onClick={() => undo.mutate(undefined)}>
        Take back{wiring.undo && `: ${wiring.undo}`}
      </button>
      {wiring.redo && (
        <button className="button" disabled={redo.isPending} onClick={() => redo.mutate(undefined)}>
          Do again: {wiring.redo}
        </button>
      )}
      <span className="spring" />
      <button className="button" disabled={!placed} onClick={() => void sheet('A4')}>
        Sheet A4
      </button>
      <button className="button" disabled={!placed} onClick={() => void sheet('A3')}>
        Sheet A3
      </button>
      <button
        className="button"
        disabled={!placed}
        onClick={() =>
          document.querySelectorAll<SVGSVGElement>('.diagram svg').forEach((svg, i) => saveDrawing(svg, `${rig.slug}-${placed![i]!.view}`))
        }
      >
        Diagram as SVG
      </button>
      <a className="button" href={`/api/v1/rigs/${rig.slug}/wiring/list.json`} download>
        List as file
      </a>
      <label className="button photo-add">
        List from a file
        <input
          type="file"
          accept="application/json,.json"
          aria-label="List from a file"
          onChange={(e) => void e.target.files?.[0]?.text().then((text) => bring.mutate(text))}
        />
      </label>
      <Refused error={undo.error ?? redo.error ?? bring.error} />
    </div>
  )
}
