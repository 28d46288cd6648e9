/** Colours of the whole interface, once for MUI, for drawings and for CSS (`--ink` and so on). */
export const tone = {
  paper: "#F7F4EE",
  card: "#FBF9F5",
  bright: "#FFFEFB",
  ink: "#22303A",
  quiet: "#5D6468",
  line: "#D9D3C7",
  tide: "#1F6F78",
  brass: "#8A6420",
  warning: "#F0D9A8",
  fault: "#A8442F",
  grown: "#2F7A4F",
  chosen: "#CFE3E0",
} as const;

/** Type sizes and the corner of boxes, px (`--text` and so on). */
export const size = { text: 13, small: 12, radius: 6 } as const;

export const sans = "'Instrument Sans Variable', sans-serif";
export const serif = "'Newsreader Variable', serif";

/** Hands the tokens to the style sheet. */
export function toStyles(root: HTMLElement): void {
  for (const [name, value] of Object.entries(tone)) root.style.setProperty(`--${name}`, value);
  for (const [name, px] of Object.entries(size)) root.style.setProperty(`--${name}`, `${px}px`);
  root.style.setProperty("--sans", sans);
  root.style.setProperty("--serif", serif);
}
