import { Dialog } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { useViewed } from "../state";
import { useEntries } from "./entries";
import { ranked, tradeWords } from "./finds";

/** So many are listed at once; typing more words leaves fewer. */
const LISTED = 60;

/** Everything by its name or by the trade's word for it: actions, pages, fields, rooms, constructions, studies, the guide. */
export function Finder() {
  const { finder, set } = useViewed("finder", "set");
  const entries = useEntries(finder);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const found = ranked(entries, text, (e) => `${e.name} ${e.also ?? ""} ${e.what}`, tradeWords).slice(0, LISTED);
  const here = Math.min(at, found.length - 1);
  useEffect(() => {
    list.current?.children[here]?.scrollIntoView({ block: "nearest" });
  }, [here]);
  function close() {
    set({ finder: false });
    setText("");
    setAt(0);
  }
  // opened and closed by keys in quick succession: it comes and goes at once, as a dialog that fades can leave the page locked
  if (!finder) return null;
  function take(k: number) {
    const entry = found[k];
    if (!entry) return;
    close();
    entry.run();
  }
  return (
    <Dialog
      open
      onClose={close}
      slotProps={{ paper: { "aria-label": "Find anything", sx: { width: 560, position: "absolute", top: 60, m: 0 } } }}
    >
      <input
        className="finder-input"
        role="combobox"
        aria-label="Find anything"
        aria-expanded
        aria-controls="finder-list"
        aria-activedescendant={found[here] ? `finder-${here}` : undefined}
        placeholder="An action, a field, a room, a construction, a study, a word of the guide"
        value={text}
        autoFocus
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") take(here);
          if (e.key === "ArrowDown") setAt(Math.min(here + 1, found.length - 1));
          if (e.key === "ArrowUp") setAt(Math.max(here - 1, 0));
          if (e.key === "ArrowDown" || e.key === "ArrowUp") e.preventDefault();
        }}
      />
      <div ref={list} id="finder-list" role="listbox" aria-label="What was found" className="finder-list">
        {found.map((e, k) => (
          <div
            key={`${e.what} ${e.name} ${k}`}
            id={`finder-${k}`}
            role="option"
            tabIndex={-1}
            aria-selected={k === here}
            onPointerMove={() => setAt(k)}
            onClick={() => take(k)}
            onKeyDown={() => undefined}
          >
            <span>{e.name}</span>
            <span className="quiet small">{e.what}</span>
          </div>
        ))}
      </div>
      {found.length === 0 && (
        <p className="quiet" style={{ padding: "0 16px" }}>
          Nothing is called that. Try another word for it, or fewer words.
        </p>
      )}
    </Dialog>
  );
}
