import { createTheme } from '@mui/material/styles'

/** MUI supplies behaviour; its stock appearance is taken off here. Colours come from the tokens, so both themes share it. */
export const theme = createTheme({
  typography: { fontFamily: 'inherit', button: { textTransform: 'none' } },
  shape: { borderRadius: 3 },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: {
        root: {
          background: 'var(--sheet)',
          color: 'var(--ink)',
          border: '1.5px solid var(--ink)',
          boxShadow: 'none',
          backgroundImage: 'none',
        },
      },
    },
    MuiBackdrop: { styleOverrides: { root: { backgroundColor: 'rgb(20 23 26 / 45%)' } } },
    MuiDialogTitle: { styleOverrides: { root: { font: '650 20px var(--words)', padding: '16px 20px 8px' } } },
    MuiDialogContent: { styleOverrides: { root: { padding: '8px 20px 16px', font: '500 16px/1.35 var(--words)' } } },
    MuiDialogActions: { styleOverrides: { root: { padding: '8px 20px 16px', gap: 8, justifyContent: 'flex-start' } } },
    MuiSlider: {
      styleOverrides: {
        root: { color: 'var(--cable)', height: 6, padding: '17px 0' },
        thumb: {
          borderRadius: 3,
          width: 14,
          height: 26,
          boxShadow: 'none',
          '&::before': { boxShadow: 'none' },
          '&:hover, &.Mui-focusVisible': { boxShadow: '0 0 0 3px var(--shade)' },
        },
        rail: { background: 'var(--line)', opacity: 1 },
      },
    },
    MuiSnackbarContent: { styleOverrides: { root: { background: 'var(--ink)', color: 'var(--on-ink)', font: '550 16px var(--words)' } } },
  },
})
