import { api, need } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { Refused } from '../shared/states'

/** Some words at this moment of a run. */
export function NoteForm({ slug, run }: { slug: string; run: number }) {
  const [text, setText, sent] = useKept(`note ${slug} ${run}`, '')
  const add = useChange(slug, () =>
    need(api.POST('/api/v1/rigs/{slug}/runs/{number}/notes', { params: { path: { slug, number: run } }, body: { text } })),
  )
  return (
    <form
      className="row"
      onSubmit={(e) => {
        e.preventDefault()
        if (text.trim()) add.mutate(undefined, { onSuccess: () => sent(text) })
      }}
    >
      <span className="field" style={{ flex: 1 }}>
        <input
          aria-label="Note at this moment"
          placeholder="Note at this moment"
          value={text}
          maxLength={200}
          onChange={(e) => setText(e.target.value)}
        />
      </span>
      <button className="button" disabled={!text.trim()}>
        Note it
      </button>
      <Refused error={add.error} />
    </form>
  )
}
