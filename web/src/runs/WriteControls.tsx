import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { useState } from 'react'
import { api, need, type Live, type Quantity, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { writeDeadline } from '../api/queries'
import { arm, armedHere, THIS_WINDOW } from '../api/thisWindow'
import { wordsOf } from '../shared/effect'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { round, say, type Unit } from '../units/quantity'

interface Props {
  rig: Rig
  link: Schemas['LinkView']
  live: Live
}

type Values = Record<string, number | string>

const CHOICES: Record<string, string> = { on_off: 'on/off', pid: 'PID', off: 'off', one_sided: 'below', centred: 'half and half' }

const words = (value: unknown, kind: string | null, unit: Unit) =>
  typeof value === 'number' ? say(value, kind as Quantity | null, unit) : (CHOICES[String(value)] ?? String(value))

/** Writing is off until armed; every write shows old → new and is confirmed. */
export function WriteControls({ rig, link, live }: Props) {
  const { unit } = usePreferences()
  const [asked, setAsked] = useState<{ title: string; values: Values; lines: [string, string, string][] } | null>(null)
  const arming = useChange(rig.slug, (armed: boolean) => need(arm(rig.slug, armed)))
  const write = useChange(rig.slug, (values: Values) =>
    need(
      api.POST('/api/v1/rigs/{slug}/link/write', {
        params: { path: { slug: rig.slug } },
        body: { values, window: THIS_WINDOW },
        signal: writeDeadline(),
      }),
    ),
  )
  const setup = useSheetMode(rig)
  if (live.status !== 'online') return null
  if (!armedHere(live))
    return (
      <>
        <button className="button" disabled={arming.isPending} onClick={() => arming.mutate(true)}>
          {live.armed ? 'Arm writing here instead' : 'Arm writing'}
        </button>
        <Refused error={arming.error} />
      </>
    )
  const askHeat = async () => {
    const mode = await setup()
    setAsked({
      title: `${wordsOf(rig.purpose.effect).ask} to ${round(rig.purpose.working_c, unit)}?`,
      values: { setpoint_c: rig.purpose.working_c, mode },
      lines: [
        ['Set-point', words(live.setpoint_c, 'temperature', unit), words(rig.purpose.working_c, 'temperature', unit)],
        ['Control mode', 'off', words(mode, null, unit)],
      ],
    })
  }
  return (
    <>
      {live.mode === 'off' && (
        <button className="button" disabled={write.isPending} onClick={() => void askHeat()}>
          {wordsOf(rig.purpose.effect).ask}…
        </button>
      )}
      {link.differences.length > 0 && (
        <button
          className="button"
          disabled={write.isPending}
          onClick={() =>
            setAsked({
              title: 'Send the sheet to the controller?',
              values: Object.fromEntries(link.differences.map((d) => [d.name, d.sheet as number | string])),
              lines: link.differences.map((d) => [d.title, words(d.controller, d.kind, unit), words(d.sheet, d.kind, unit)]),
            })
          }
        >
          Send {link.differences.length} changed {link.differences.length === 1 ? 'setting' : 'settings'}…
        </button>
      )}
      {link.auto_tune === 'on' && (
        <button className="button" disabled={write.isPending} onClick={() => setAsked(STOP_TUNING)}>
          Stop auto-tune…
        </button>
      )}
      <button className="button quiet" onClick={() => arming.mutate(false)}>
        Disarm
      </button>
      <Dialog open={asked !== null} onClose={() => !write.isPending && setAsked(null)} aria-labelledby="write-title">
        <DialogTitle id="write-title">{asked?.title}</DialogTitle>
        <DialogContent>
          <table className="plain">
            <tbody>
              {asked?.lines.map(([name, old, next]) => (
                <tr key={name}>
                  <td>{name}</td>
                  <td className="num dim">{old}</td>
                  <td>→</td>
                  <td className="num">{next}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {link.kept
            .filter((k) => asked && k.name in asked.values)
            .map((k) => (
              <p key={k.name} className="small dim">
                <Said>{`${k.title}: ${k.says}`}</Said>.
              </p>
            ))}
          <p style={{ marginTop: 10 }}>
            <b>Is the rig empty or ready, and somebody beside it?</b>
          </p>
          <Refused error={write.error} />
        </DialogContent>
        <DialogActions>
          <button
            className="button main"
            disabled={write.isPending}
            onClick={() => write.mutate(asked!.values, { onSuccess: () => setAsked(null) })}
          >
            {write.isPending ? 'Writing…' : 'Write it'}
          </button>
          <button className="button" disabled={write.isPending} onClick={() => setAsked(null)}>
            Leave it
          </button>
        </DialogActions>
      </Dialog>
      {!asked && <Refused error={write.error ?? arming.error} />}
    </>
  )
}

/** Begun under Tuning, where it is watched. */
const STOP_TUNING = {
  title: 'Stop the auto-tune?',
  values: { auto_tune: 'off' },
  lines: [['Auto-tune', 'running', 'stopped'] as [string, string, string]],
}

/** The mode the sheet says, or on/off before there is one. */
function useSheetMode(rig: Rig) {
  return async () => {
    const setup = await need(api.GET('/api/v1/rigs/{slug}/setup', { params: { path: { slug: rig.slug } } }))
    const mode = setup.parameters.find((p) => p.name === 'mode')
    const value = (mode?.value ?? mode?.proposed) as string
    return value === 'off' ? 'on_off' : value
  }
}
