import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { usePreferences } from './preferences'
import { STATION_NAME, STATIONS } from './stations'
import './palette.css'

const KEYS: [string, string][] = [
  ['Ctrl K', 'Commands: every place and action by a few letters'],
  ['1 … 9, 0, -', STATIONS.map((s) => STATION_NAME[s]).join(', ')],
  ['w', 'Workshop'],
  ['u', 'Change between °C and °F'],
  ['n', 'Change between day and night shift'],
  ['Tab, Enter', 'Move on; press a dotted figure to see how it was found'],
  ['Ctrl Z, Ctrl Shift Z', 'In the wiring: take the last edit back, do it again'],
  ['m', 'In the bench view: mark this moment of the run'],
  ['Esc', 'Close what is open'],
  ['?', 'This list'],
]

export default function KeyMap({ onClose }: { onClose: () => void }) {
  const { letters, toggleLetters } = usePreferences()
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keyboard</DialogTitle>
      <DialogContent>
        <dl className="keys">
          {KEYS.map(([key, what]) => (
            <KeyRow key={key} keys={key} what={what} />
          ))}
        </dl>
        <label className="tick">
          <input type="checkbox" checked={letters} onChange={toggleLetters} /> Single letters and digits do this (off: only with Ctrl, by
          mouse and by Tab)
        </label>
      </DialogContent>
    </Dialog>
  )
}

function KeyRow({ keys, what }: { keys: string; what: string }) {
  return (
    <>
      <dt>
        <kbd>{keys}</kbd>
      </dt>
      <dd>{what}</dd>
    </>
  )
}
