import { Dialog } from "@mui/material";
import { useLocation } from "react-router";
import { asPage, guide, type Part } from "./guide/guide";
import { useViewed } from "./state";

const keys = [
  ["Ctrl K", "find any action, field, room, construction or study by its name, or by the trade's word for it"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo; they reach back across days"],
  ["Esc", "leave a field, let go of the selection, stop drawing"],
  ["Enter", "take what was typed into a field, and stay there"],
  ["F", "fit: show all, or what is selected"],
  ["Drag in the model", "turns it; Shift with drag moves it; the wheel and + − zoom"],
  [
    "Drag in the plan",
    "moves volumes and rooms in steps of half a metre, corners and sides to what is near; the knob turns",
  ],
  ["Drag a cone in the model", "sets a height, or moves a wall; Alt in steps of a centimetre"],
  ["Shift with click", "adds to what is selected, or takes from it; on a corner, squares it"],
  ["Shift with drag in the plan", "draws a frame around what to select"],
] as const;

const words = [
  ["reference", "the one scheme that all differences in the readout are told against"],
  ["assumed", "a value that nobody gave yet; press the word for its source, and to confirm it"],
  ["lever, step", "something that a study varies, and the values that it takes"],
  ["± vary", "makes a field a lever of the next study"],
  ["energy per floor area", "all end uses before own generation, by conditioned internal floor area, a year"],
  ["peak", "the highest hourly mean; its hour is the start of that hour in local standard time"],
] as const;

/** The first paragraph of a part of the guide. */
const firstOf = (part: Part): Part => ({
  ...part,
  text: part.text.split(/\n\s*\n/).find((p) => !p.startsWith("!")) ?? "",
});

/** What the page that is open is for, the keys, and the words that Eurythm uses in its own way. */
export function Help() {
  const { help, set } = useViewed("help", "set");
  const stage = useLocation().pathname.split("/")[3] ?? "";
  const part = guide.find((p) => p.id === stage);
  return (
    <Dialog
      open={help}
      onClose={() => set({ help: false })}
      slotProps={{ paper: { "aria-label": "Help", sx: { width: 560, p: 3 } } }}
    >
      {part && (
        <section data-part={part.id}>
          <h2>{part.title}</h2>
          {/* biome-ignore lint/security/noDangerouslySetInnerHtml: our own text, built in */}
          <div className="told" dangerouslySetInnerHTML={{ __html: asPage(firstOf(part)) }} />
          <p>
            <a href={`/guide/${part.id}`} target="eurythm-guide">
              More of this in the guide
            </a>
          </p>
        </section>
      )}
      <h3>How to get about</h3>
      <p className="quiet">
        The stages at the left can be opened in any order. Whatever is changed, the readout below follows within a
        second. Eurythm compares designs at an early stage; it is no proof of compliance.
      </p>
      <Rows of={keys} />
      <h3>Words</h3>
      <Rows of={words} />
    </Dialog>
  );
}

function Rows({ of }: { of: readonly (readonly [string, string])[] }) {
  return (
    <table className="plain-table">
      <tbody>
        {of.map(([name, what]) => (
          <tr key={name}>
            <th scope="row" style={{ textAlign: "left", width: 190, verticalAlign: "top" }}>
              {name}
            </th>
            <td>{what}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
