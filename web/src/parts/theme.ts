import { createTheme } from '@mui/material/styles';

const sans = '"Atkinson Hyperlegible Next Variable", "Noto Sans", sans-serif';
export const mono = '"Atkinson Hyperlegible Mono Variable", "Noto Sans Mono", monospace';

declare module '@mui/material/styles' {
    interface Palette {
        ink: { main: string; faint: string; rule: string };
    }
    interface PaletteOptions {
        ink?: { main: string; faint: string; rule: string };
    }
}

/** A printed protocol: paper, one ink, petrol for what acts, ochre for attention, red for stop. */
export const theme = createTheme({
    cssVariables: { colorSchemeSelector: 'data-scheme' },
    colorSchemes: {
        light: {
            palette: {
                primary: { main: '#0f5a64', contrastText: '#ffffff' },
                warning: { main: '#8a5a00', contrastText: '#ffffff' },
                error: { main: '#a3231a', contrastText: '#ffffff' },
                background: { default: '#efebe1', paper: '#fbf9f4' },
                text: { primary: '#1d2730', secondary: '#4a5660' },
                divider: '#cfc9ba',
                ink: { main: '#22405a', faint: '#5d6771', rule: '#b9b2a0' },
            },
        },
        dark: {
            palette: {
                primary: { main: '#74c0c8', contrastText: '#0c1518' },
                warning: { main: '#dcb062', contrastText: '#191204' },
                error: { main: '#f0968c', contrastText: '#240504' },
                background: { default: '#15191b', paper: '#1d2326' },
                text: { primary: '#e4e6e1', secondary: '#aab4b6' },
                divider: '#3a4347',
                ink: { main: '#a9c4d8', faint: '#93a0a6', rule: '#4b565b' },
            },
        },
    },
    typography: {
        fontFamily: sans,
        fontSize: 15,
        h1: { fontSize: '1.55rem', fontWeight: 650, letterSpacing: '-0.01em' },
        h2: { fontSize: '1.15rem', fontWeight: 650 },
        h3: { fontSize: '1rem', fontWeight: 650 },
        body1: { fontSize: '1rem', lineHeight: 1.45 },
        body2: { fontSize: '0.93rem', lineHeight: 1.4 },
        caption: { fontSize: '0.84rem', lineHeight: 1.35 },
        button: { textTransform: 'none', fontWeight: 600 },
    },
    shape: { borderRadius: 3 },
    components: {
        MuiCssBaseline: { styleOverrides: { a: { color: 'var(--mui-palette-primary-main)' } } },
        MuiButton: { defaultProps: { disableElevation: true } },
        MuiButtonBase: { defaultProps: { disableRipple: true } },
        MuiPaper: { defaultProps: { elevation: 0 } },
        MuiTooltip: { defaultProps: { arrow: true, enterDelay: 300, describeChild: true } },
        MuiToggleButton: {
            styleOverrides: { root: { color: 'var(--mui-palette-text-primary)' } },
        },
        MuiTextField: { defaultProps: { size: 'small' } },
        MuiSelect: { defaultProps: { size: 'small' } },
    },
});
