import { useKinds } from '../api/hooks'

/** What is dangerous about a kind of rig, at the one station where it is met. */
export function KindCautions({
  kind,
  station,
  ...rig
}: {
  kind: string
  station: string
  watches: boolean
  burns: boolean
  pumps: boolean
}) {
  const cautions =
    useKinds()
      .find((k) => k.kind === kind)
      ?.cautions.filter((c) => c.station === station && (c.watched || !rig.watches) && (rig.burns || !c.lit) && (rig.pumps || !c.pumped)) ??
    []
  return cautions.map((c) => (
    <div key={c.lead} className="caution">
      <strong>{c.lead}</strong> {c.says}
    </div>
  ))
}
