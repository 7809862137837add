import { createTheme } from '@mui/material';

/** MUI dressed in the tokens of tokens.css. */
export const theme = createTheme({
  palette: {
    primary: { main: '#0d5a6a' },
    secondary: { main: '#e4a83b', contrastText: '#22190a' },
    error: { main: '#9a2a2a' },
    background: { default: '#e9e4d8', paper: '#fcfaf5' },
    text: { primary: '#1e2a2f', secondary: '#56615f' },
    divider: '#d8d0be',
  },
  shape: { borderRadius: 4 },
  typography: {
    fontFamily: "'IBM Plex Sans Variable', system-ui, sans-serif",
    fontSize: 13,
    button: { textTransform: 'none', fontWeight: 500 },
    h6: { fontFamily: "'Source Serif 4 Variable', Georgia, serif", fontWeight: 600 },
  },
  components: {
    MuiButton: { defaultProps: { disableElevation: true, size: 'small' } },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiTextField: { defaultProps: { size: 'small', variant: 'outlined' } },
    MuiSelect: { defaultProps: { size: 'small' } },
    MuiDialog: { defaultProps: { transitionDuration: 0 } },
    MuiPopover: {
      defaultProps: { transitionDuration: 0 },
      styleOverrides: {
        paper: { border: '1px solid #d8d0be', boxShadow: '0 14px 40px -18px #000a', marginTop: 6 },
      },
    },
    MuiTooltip: { defaultProps: { enterDelay: 400 } },
  },
});
