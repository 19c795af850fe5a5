import Snackbar from '@mui/material/Snackbar'
import SnackbarContent from '@mui/material/SnackbarContent'

interface Props {
  text: string | null
  onUndo: () => Promise<unknown> | void
  onClose: () => void
}

/** What was just taken away, and the way back; stays for twelve seconds. */
export function Undo({ text, onUndo, onClose }: Props) {
  return (
    <Snackbar open={text !== null} autoHideDuration={12000} onClose={(_, reason) => reason !== 'clickaway' && onClose()}>
      <SnackbarContent
        message={text}
        action={
          <button
            className="button"
            onClick={() => {
              void onUndo()
              onClose()
            }}
          >
            Undo
          </button>
        }
      />
    </Snackbar>
  )
}
