import { useKinds } from '../api/hooks'

/** What is dangerous about a kind of rig, at the one station where it is met. */
export function KindCautions({ kind, station, watches, burns }: { kind: string; station: string; watches: boolean; burns: boolean }) {
  const cautions =
    useKinds()
      .find((k) => k.kind === kind)
      ?.cautions.filter((c) => c.station === station && (c.watched || !watches) && (burns || !c.lit)) ?? []
  return cautions.map((c) => (
    <div key={c.lead} className="caution">
      <strong>{c.lead}</strong> {c.says}
    </div>
  ))
}
