import type { Quantity, Rig } from '../api/client'
import { useNow } from '../api/live'
import { Temperature } from '../shared/Temperature'
import { usePreferences } from '../shell/preferences'
import { quantity } from '../units/quantity'
import { useDevices, type Channel, type Device } from './data'
import './runs.css'

/** What else is measured, small beside the one big reading. What is stale shows its age and is struck through. */
export function Channels({ rig }: { rig: Rig }) {
  const devices = useDevices(rig.slug)
  const now = useNow(1000)
  const late = Math.max(0, now - devices.dataUpdatedAt) / 1000
  const shown = (devices.data?.devices ?? [])
    .map((d) => ({ ...d, channels: d.channels.filter((c) => c.kept) }))
    .filter((d) => d.channels.length)
  if (!shown.length) return null
  return (
    <dl className="channels" aria-label="Also measured">
      {shown.flatMap((d) => d.channels.map((c) => <Shown key={`${d.name} ${c.source}`} device={d} channel={c} late={late} />))}
    </dl>
  )
}

function Shown({ device, channel, late }: { device: Device; channel: Channel; late: number }) {
  const age = (device.age_s ?? Infinity) + late
  const stale = !device.online || age > device.stale_after_s
  return (
    <div className={stale ? 'stale' : undefined}>
      <dt>{channel.called}</dt>
      <dd>
        {channel.kind === 'temperature' ? <Temperature celsius={channel.true} tinted={!stale} /> : <Value channel={channel} />}
        {stale && <span className="small dim">{Number.isFinite(age) ? ` ${Math.round(age)} s ago` : ' not heard yet'}</span>}
      </dd>
    </div>
  )
}

function Value({ channel }: { channel: Channel }) {
  const { unit } = usePreferences()
  if (channel.true == null) return <span className="num">–</span>
  if (!channel.kind) return <span>{channel.true > 0 ? 'yes' : 'no'}</span>
  const shown = quantity(channel.true, channel.kind as Quantity, unit)
  return (
    <>
      <span className="num">{shown.text}</span>
      <span className="dim"> {shown.unit}</span>
    </>
  )
}
