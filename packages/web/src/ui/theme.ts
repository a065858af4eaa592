import { createTheme } from '@mui/material/styles';
import { faces, tokens } from './tokens.ts';

const { pit, floor, row, raise, line, text, bone, dim, amber, coral, select } = tokens;

/** One theme for all of Estela: charcoal surfaces, hairlines, 3px corners, compact rows. */
export const theme = createTheme({
  palette: {
    mode: 'dark',
    primary: { main: bone, contrastText: pit },
    secondary: { main: amber, contrastText: pit },
    error: { main: coral, contrastText: pit },
    background: { default: floor, paper: row },
    text: { primary: text, secondary: dim },
    divider: line,
    action: { selected: select, hover: raise },
  },
  shape: { borderRadius: 3 },
  spacing: 8,
  typography: {
    fontFamily: faces.interface,
    fontSize: 13,
    htmlFontSize: 16,
    body1: { fontSize: 13, lineHeight: '18px' },
    body2: { fontSize: 13, lineHeight: '18px' },
    caption: { fontSize: 12, lineHeight: '16px', color: dim },
    h1: { fontSize: 20, lineHeight: '26px', fontWeight: 500 },
    h2: { fontSize: 15, lineHeight: '20px', fontWeight: 500 },
    button: { fontSize: 13, lineHeight: '18px', fontWeight: 500, textTransform: 'none' },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        'html, body, #root': { height: '100%' },
        body: { fontSize: 13, lineHeight: '18px', overscrollBehavior: 'none' },
        ':focus-visible': { outline: `2px solid ${bone}`, outlineOffset: 1 },
        '*': { scrollbarColor: `${line} transparent`, scrollbarWidth: 'thin' },
      },
    },
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      styleOverrides: { root: { '&:focus-visible': { outline: `2px solid ${bone}`, outlineOffset: 1 } } },
    },
    MuiButton: {
      defaultProps: { size: 'small', disableElevation: true },
      styleOverrides: {
        root: { minHeight: 28, padding: '3px 12px', whiteSpace: 'nowrap' },
        outlined: {
          borderColor: line,
          color: text,
          backgroundColor: row,
          '&:hover': { borderColor: dim, backgroundColor: raise },
        },
        text: { color: text },
      },
    },
    MuiIconButton: {
      defaultProps: { size: 'small' },
      styleOverrides: { root: { borderRadius: 3, width: 28, height: 28, color: text } },
    },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    MuiDialog: { styleOverrides: { paper: { border: `1px solid ${line}`, backgroundColor: floor } } },
    MuiDialogTitle: { styleOverrides: { root: { fontSize: 15, fontWeight: 500, padding: '16px 16px 8px' } } },
    MuiDialogContent: { styleOverrides: { root: { padding: '8px 16px' } } },
    MuiDialogActions: { styleOverrides: { root: { padding: '8px 16px 16px' } } },
    // Its own is light, and what stands on it here is made for dark.
    MuiSnackbarContent: {
      styleOverrides: { root: { border: `1px solid ${line}`, backgroundColor: raise, color: text, fontSize: 13 } },
    },
    MuiMenu: { styleOverrides: { paper: { border: `1px solid ${line}`, backgroundColor: raise } } },
    MuiMenuItem: { styleOverrides: { root: { minHeight: 28, fontSize: 13, padding: '4px 12px' } } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { backgroundColor: row, fontSize: 13, '& fieldset': { borderColor: line } },
        input: { padding: '4px 8px', height: 20 },
      },
    },
    MuiSlider: {
      defaultProps: { size: 'small' },
      styleOverrides: {
        root: { padding: '13px 0', height: 2 },
        thumb: {
          width: 10,
          height: 16,
          borderRadius: 2,
          '&:hover, &.Mui-focusVisible': { boxShadow: 'none' },
          '&.Mui-focusVisible': { outline: `2px solid ${text}`, outlineOffset: 1 },
        },
        rail: { backgroundColor: line, opacity: 1 },
        track: { border: 'none' },
        mark: { backgroundColor: dim, height: 4 },
      },
    },
    MuiToggleButton: {
      styleOverrides: {
        root: {
          padding: '3px 12px',
          minHeight: 28,
          whiteSpace: 'nowrap',
          border: '1px solid transparent',
          color: dim,
          fontSize: 13,
          '&.Mui-selected': { color: text, backgroundColor: raise, '&:hover': { backgroundColor: raise } },
        },
      },
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 500, disableInteractive: true },
      styleOverrides: {
        tooltip: { backgroundColor: raise, border: `1px solid ${line}`, color: text, fontSize: 12, padding: '4px 8px' },
      },
    },
  },
});
