import { useQuery } from '@tanstack/react-query'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { Fetched } from '../shared/Fetched'
import { Findings } from '../shared/Findings'
import { ReasonOfPlace } from '../shell/reason'
import { Again } from './Again'
import { Exchange } from './Exchange'
import { InputAlone } from './InputAlone'
import { Kept } from './Kept'
import { OffsetHistory } from './OffsetHistory'
import { Several } from './Several'
import { WindowEaten } from './WindowEaten'
import { Worksheet } from './Worksheet'
import './calibration.css'

/** Pairs in, the offset to enter out. */
export default function Calibration() {
  const rig = useOutletContext<Rig>()
  const query = useQuery({
    queryKey: ['of', rig.slug, 'calibration', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/calibration', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  return (
    <>
      <h1>Can the display be trusted?</h1>
      {rig.choice ? (
        <Fetched query={query}>
          {(data) => (
            <>
              {data.doubts.length > 0 && <Findings rig={rig} findings={data.doubts} fine="" />}
              <OffsetHistory data={data} />
              <Again rig={rig} data={data} />
              <Worksheet rig={rig} data={data} />
              <Several rig={rig} />
              <WindowEaten rig={rig} />
              <Exchange rig={rig} />
              <InputAlone rig={rig} />
              <Kept rig={rig} data={data} />
            </>
          )}
        </Fetched>
      ) : (
        <div className="empty" style={{ marginTop: 14 }}>
          <p>Choose the sensor first.</p>
          <Link className="button" to={`/rigs/${rig.slug}/parts`}>
            Parts
          </Link>
        </div>
      )}
      <ReasonOfPlace>
        <h2>Two kinds of controls</h2>
        <p>
          <b>Added to the reading</b>: display = raw + offset. A display that reads too high needs a negative offset.
        </p>
        <p>
          <b>Temperature adjustment</b>: the number makes the oven hotter or cooler. For the same fault it has the opposite sign, so the two
          are never mixed.
        </p>
        <p>
          Warm up and settle for 10–15 minutes. Three pairs with strips, six for a cycling oven. New sensor: set the offset to zero first.
        </p>
        <div className="caution">
          <strong>Hot parts.</strong> Reach in with gloves and the heat off; a reference probe is clamped, not held.
        </div>
      </ReasonOfPlace>
    </>
  )
}
