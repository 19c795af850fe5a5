import { Link, useOutletContext, useParams } from 'react-router'
import type { Rig } from '../api/client'
import { Ask } from '../questions/Ask'
import { useQuestions } from '../questions/data'
import { Failure, Loading, Lost } from '../shared/states'

/** A question asked of this rig: it opens with what the rig knows, and its answer can be kept in it. */
export default function PartQuestion() {
  const rig = useOutletContext<Rig>()
  const { key } = useParams()
  const { data, error } = useQuestions(rig.slug, rig.revision)
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const question = data.find((q) => q.key === key)
  return (
    <>
      <p className="noprint">
        <Link to={`/rigs/${rig.slug}/parts`}>Back to the parts</Link>
      </p>
      {question ? (
        <Ask key={`${question.key} ${question.kept ? JSON.stringify(question.start) : ''}`} question={question} rig={rig} />
      ) : (
        <Lost />
      )}
    </>
  )
}
