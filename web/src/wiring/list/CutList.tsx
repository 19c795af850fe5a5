import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../../api/client'
import { Failure, Loading } from '../../shared/states'
import { useConductorColours } from '../../shared/conductors'

/** What to cut, what to print on labels, and how much wire it takes. */
export function CutList({ rig }: { rig: Rig }) {
  const { data, error } = useQuery({
    queryKey: ['of', rig.slug, 'schedule', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring/schedule', { params: { path: { slug: rig.slug } } })),
  })
  const colours = useConductorColours()
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  return (
    <div className="cutlist">
      <div>
        <div className="labels" aria-label="Label strip">
          {data.cuts.map((c) => (
            <span key={c.number}>{c.label}</span>
          ))}
        </div>
        <table className="plain">
          <thead>
            <tr>
              <th className="right">No</th>
              <th>From</th>
              <th>To</th>
              <th>Wire</th>
              <th>Ends</th>
              <th className="right">Length</th>
            </tr>
          </thead>
          <tbody>
            {data.cuts.map((c) => (
              <tr key={c.number}>
                <td className="right num">{c.number}</td>
                <td className="num">{c.a}</td>
                <td className="num">{c.b}</td>
                <td>
                  {c.area_mm2} mm² {colours.of(c.colour).code} <span className="dim">{c.colour}</span>
                </td>
                <td>{c.ferrule}</td>
                <td className="right num">{c.length_m} m</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="stack noprint">
        <h2>Together</h2>
        <table className="plain">
          <tbody>
            {data.totals.map((t) => (
              <tr key={`${t.area_mm2}${t.colour}`}>
                <td>
                  {t.area_mm2} mm² {t.colour}
                </td>
                <td className="right num">{Math.ceil(t.length_m)} m</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="dim small">At 1.5 m a wire; measure the long ones.</p>
        <a className="button" href={`/api/v1/rigs/${rig.slug}/wiring/schedule.csv`} download>
          Schedule as CSV
        </a>
        <a className="button" href={`/api/v1/rigs/${rig.slug}/wiring/netlist.cir`} download>
          Netlist (SPICE)
        </a>
        <button className="button" onClick={() => window.print()}>
          Print
        </button>
      </div>
    </div>
  )
}
