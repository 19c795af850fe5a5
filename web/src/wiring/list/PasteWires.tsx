import { api, need, type Rig } from '../../api/client'
import { useChange } from '../../api/hooks'
import { useKept } from '../../api/kept'
import { Refused } from '../../shared/states'

/** Many wires at once, from a spreadsheet or a text: all of them, or none with the lines that cannot be. */
export function PasteWires({ rig }: { rig: Rig }) {
  const [text, setText] = useKept(`wires ${rig.slug}`, '')
  const add = useChange(rig.slug, async () => {
    await need(
      api.POST('/api/v1/rigs/{slug}/wiring/paste', { params: { path: { slug: rig.slug } }, body: { revision: rig.revision, text } }),
    )
    setText('')
  })
  return (
    <section className="stack" aria-label="Several wires">
      <h2>Several wires</h2>
      <div className="field">
        <label htmlFor="paste-wires">One a line: from, to, and if you like mm² and colour</label>
        <textarea
          id="paste-wires"
          className="num"
          rows={4}
          placeholder={'F2.2, A1.L, 0.75, brown'}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <Refused error={add.error} />
      <div className="row">
        <button className="button" disabled={!text.trim() || add.isPending} onClick={() => add.mutate(undefined)}>
          Add them
        </button>
      </div>
    </section>
  )
}
