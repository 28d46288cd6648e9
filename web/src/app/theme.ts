import { createTheme } from "@mui/material/styles";
import { sans, serif, size, tone } from "./tokens";

/** End uses in the fixed order of all bars and charts; `dark` says that text on it is paper. */
export const endUses = [
  { id: "heating", name: "Heating", colour: "#B04A32", dark: true },
  { id: "hot_water", name: "Hot water", colour: "#E3AC92", dark: false },
  { id: "cooling", name: "Cooling", colour: "#2B5F8A", dark: true },
  { id: "fans_pumps", name: "Fans and pumps", colour: "#9CC0BC", dark: false },
  { id: "lighting", name: "Lighting", colour: "#E8C04A", dark: false },
  { id: "equipment", name: "Equipment", colour: "#A391B6", dark: false },
] as const;

export const categories = [
  "#B7C9C4",
  "#D9C6A5",
  "#A9B4C2",
  "#CDB4B0",
  "#B9C29B",
  "#C8BBD0",
  "#8FA6A0",
  "#E0D3B8",
] as const;

export const theme = createTheme({
  palette: {
    primary: { main: tone.tide },
    error: { main: tone.fault },
    text: { primary: tone.ink, secondary: tone.quiet },
    background: { default: tone.paper, paper: tone.card },
    divider: tone.line,
  },
  shape: { borderRadius: size.radius },
  typography: {
    fontFamily: sans,
    fontSize: size.text,
    body1: { fontSize: size.text, lineHeight: 1.4 },
    button: { textTransform: "none", fontWeight: 500 },
  },
  transitions: { duration: { enteringScreen: 140, leavingScreen: 120, shortest: 100, short: 120, standard: 150 } },
  components: {
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      styleOverrides: { root: { "&:focus-visible": { outline: `2px solid ${tone.tide}`, outlineOffset: 1 } } },
    },
    MuiDialogTitle: { styleOverrides: { root: { fontFamily: serif } } },
    MuiButton: {
      defaultProps: { size: "small", disableElevation: true },
      styleOverrides: {
        root: {
          minWidth: 0,
          padding: "4px 12px",
          fontSize: size.text,
          // the text does not fade: a button that becomes free is readable at once
          transition: "background-color 120ms, border-color 120ms",
          variants: [
            {
              props: { variant: "outlined" },
              style: {
                borderColor: tone.line,
                color: tone.ink,
                background: tone.bright,
                "&:hover": { borderColor: tone.tide, background: tone.card },
              },
            },
            { props: { variant: "contained", color: "primary" }, style: { background: tone.tide } },
          ],
        },
      },
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 400 },
      styleOverrides: { tooltip: { background: tone.ink, fontSize: size.small, maxWidth: 280 } },
    },
    MuiMenuItem: {
      styleOverrides: {
        root: {
          fontSize: size.text,
          minHeight: 30,
          // where the keyboard is, seen by its edge: on a darker ground quiet text has too little contrast
          "&.Mui-focusVisible": { background: tone.bright, boxShadow: `inset 0 0 0 2px ${tone.tide}` },
        },
      },
    },
    MuiPaper: { styleOverrides: { root: { boxShadow: "0 2px 10px rgba(34,48,58,.12)", backgroundImage: "none" } } },
    MuiSelect: { defaultProps: { size: "small" } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { background: tone.bright, fontSize: size.text },
        notchedOutline: { borderColor: tone.line },
        input: { padding: "4px 8px", fontVariantNumeric: "tabular-nums" },
      },
    },
  },
});
