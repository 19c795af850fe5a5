import { fixed, say } from '../units/quantity'
import type { Forecast } from './data'

/** What the rig makes of a profile, in a sentence: how long, how much, until when. */
export function Outcome({ forecast, unit }: { forecast: Forecast; unit: 'C' | 'F' }) {
  const over = forecast.begins_h + forecast.total_s / 3600
  const longer = forecast.total_s - forecast.planned_s
  const spread = forecast.total_high_s - forecast.total_low_s
  return (
    <>
      It takes <b>{say(forecast.total_s, 'time', unit)}</b>
      {longer > 0.03 * forecast.planned_s && `, ${say(longer, 'time', unit)} of it more than asked`}
      {spread > 0.05 * forecast.total_s &&
        ` (${say(forecast.total_low_s, 'time', unit)} to ${say(forecast.total_high_s, 'time', unit)})`},{' '}
      <b>{fixed(forecast.energy_kwh, forecast.energy_kwh < 10 ? 2 : 1)} kWh</b>
      {forecast.price != null && ` for ${fixed(forecast.price, 2)}`}, at most {fixed(forecast.peak_w / 1000, 2)} kW over a quarter of an
      hour. Begun at {clock(forecast.begins_h)} it is over at {clock(over)}
      {over >= 24 && `, ${Math.floor(over / 24) === 1 ? 'the next day' : `${Math.floor(over / 24)} days on`}`}.
    </>
  )
}

function clock(hours: number): string {
  const minutes = Math.round(hours * 60) % 1440
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
}
