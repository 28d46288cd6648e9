import { createTheme } from "@mui/material/styles";

export const paper = "#F7F4EE";
export const card = "#FBF9F5";
export const ink = "#22303A";
export const quiet = "#5D6468";
export const line = "#D9D3C7";
export const tide = "#1F6F78";
export const brass = "#8A6420";
export const warning = "#F0D9A8";
export const fault = "#A8442F";
export const grown = "#2F7A4F";

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

const sans = "'Instrument Sans Variable', sans-serif";
export const serif = "'Newsreader Variable', serif";

export const theme = createTheme({
  palette: {
    primary: { main: tide },
    error: { main: fault },
    text: { primary: ink, secondary: quiet },
    background: { default: paper, paper: card },
    divider: line,
  },
  shape: { borderRadius: 6 },
  typography: {
    fontFamily: sans,
    fontSize: 13,
    body1: { fontSize: 13, lineHeight: 1.4 },
    button: { textTransform: "none", fontWeight: 500 },
  },
  transitions: { duration: { enteringScreen: 140, leavingScreen: 120, shortest: 100, short: 120, standard: 150 } },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiDialogTitle: { styleOverrides: { root: { fontFamily: serif } } },
    MuiButton: {
      defaultProps: { size: "small", disableElevation: true },
      styleOverrides: {
        root: {
          minWidth: 0,
          padding: "4px 12px",
          fontSize: 13,
          // the text does not fade: a button that becomes free is readable at once
          transition: "background-color 120ms, border-color 120ms",
          variants: [
            {
              props: { variant: "outlined" },
              style: {
                borderColor: line,
                color: ink,
                background: "#FFFEFB",
                "&:hover": { borderColor: tide, background: card },
              },
            },
            { props: { variant: "contained", color: "primary" }, style: { background: tide } },
          ],
        },
      },
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 400 },
      styleOverrides: { tooltip: { background: ink, fontSize: 12, maxWidth: 280 } },
    },
    MuiMenuItem: { styleOverrides: { root: { fontSize: 13, minHeight: 30 } } },
    MuiPaper: { styleOverrides: { root: { boxShadow: "0 2px 10px rgba(34,48,58,.12)", backgroundImage: "none" } } },
    MuiSelect: { defaultProps: { size: "small" } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { background: "#FFFEFB", fontSize: 13 },
        notchedOutline: { borderColor: line },
        input: { padding: "4px 8px", fontVariantNumeric: "tabular-nums" },
      },
    },
  },
});
