import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../api/client'
import { useKept } from '../api/kept'
import { Form } from '../questions/Form'
import { Figures } from '../shared/Fig'
import { Findings } from '../shared/Findings'
import { SelectField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import type { ProfilesView, Work } from './data'

interface Props {
  rig: Rig
  kinds: ProfilesView['kinds']
  work: Work
  onTake: (part: Pick<Work, 'kind' | 'inputs' | 'profile'>) => void
}

/** A kind of work: what it asks for, and the profile that follows. */
export function KindForm({ rig, kinds, work, onTake }: Props) {
  const [key, setKey] = useKept(`profile kind ${rig.slug}`, work.kind || kinds[0]!.key)
  const kind = kinds.find((k) => k.key === key) ?? kinds[0]!
  const [given, setGiven] = useKept<Record<string, Record<string, unknown>>>(`profile inputs ${rig.slug}`, {})
  const values = given[kind.key] ?? (work.kind === kind.key ? { ...kind.start, ...work.inputs } : kind.start)
  const built = useQuery({
    queryKey: ['of', rig.slug, 'profile built', kind.key, values],
    queryFn: () =>
      need(
        api.POST('/api/v1/rigs/{slug}/profiles-build', { params: { path: { slug: rig.slug } }, body: { kind: kind.key, inputs: values } }),
      ),
    placeholderData: (before) => before,
    retry: false,
  })
  return (
    <div className="stack">
      <div className="kind-choice">
        <SelectField label="Kind of work" value={kind.key} options={kinds.map((k) => [k.key, k.title] as const)} onChange={setKey} />
      </div>
      <Form
        key={kind.key}
        hours
        question={kind}
        values={values}
        problem={(field) => problemOf(built.error, field)}
        onChange={(next) => setGiven({ ...given, [kind.key]: next })}
      />
      <Refused error={built.error} />
      {built.data && !built.error && (
        <>
          <Figures figures={built.data.figures} />
          {built.data.findings.length > 0 && <Findings rig={rig} findings={built.data.findings} fine="" />}
          <div className="row">
            <button
              className="button main"
              disabled={built.isPlaceholderData}
              onClick={() => onTake({ kind: kind.key, inputs: built.data.inputs, profile: built.data.profile })}
            >
              Draw this profile
            </button>
            <span className="dim small">{kind.source}</span>
          </div>
        </>
      )}
      {kind.caution && <div className="caution">{kind.caution}</div>}
    </div>
  )
}
