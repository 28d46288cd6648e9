import { Button, MenuItem, Select } from "@mui/material";
import { useState } from "react";
import { tone } from "../../../app/tokens";
import { freshId } from "../../../app/words";
import { className, type Held, type Rule } from "./imports";

/** The classes of what the file holds, each with a small picture, how many there are, and whether they count. */
export function Classes({
  held,
  chosen,
  unseen,
  onChoose,
  onUnseen,
  onRule,
}: {
  held: Held;
  chosen: string | null;
  unseen: Set<string>;
  onChoose: (name: string | null) => void;
  onUnseen: (name: string) => void;
  onRule: (by: Rule["by"], value: string, keep: boolean) => void;
}) {
  const group = (counts: boolean) => held.classes.filter((c) => c.kept > 0 === counts);
  const list = (counts: boolean) =>
    group(counts).map((c) => (
      <li key={c.class_name} className="class-row" data-class={c.class_name}>
        <button
          type="button"
          className="plain class-name"
          aria-pressed={chosen === c.class_name}
          title="Show these alone"
          onClick={() => onChoose(chosen === c.class_name ? null : c.class_name)}
        >
          <Picture lines={c.picture} quiet={!counts} />
          <span>
            {className(c.class_name)}
            <span className="quiet small">
              {" "}
              {c.kept === c.count || c.kept === 0 ? c.count : `${c.kept} of ${c.count}`}
            </span>
          </span>
        </button>
        <button
          type="button"
          className="plain small quiet"
          aria-pressed={unseen.has(c.class_name)}
          aria-label={`${unseen.has(c.class_name) ? "Show" : "Hide"} ${className(c.class_name)}`}
          onClick={() => onUnseen(c.class_name)}
        >
          {unseen.has(c.class_name) ? "show" : "hide"}
        </button>
        <button
          type="button"
          className="plain small assumed"
          aria-label={`${counts ? "Leave out" : "Keep"} ${className(c.class_name)}`}
          onClick={() => onRule("class", c.class_name, !counts)}
        >
          {counts ? "leave out" : "keep"}
        </button>
      </li>
    ));
  return (
    <>
      <section>
        <h3>Kept for energy</h3>
        <ul className="class-list">{list(true)}</ul>
      </section>
      <section>
        <h3>Left out</h3>
        <ul className="class-list">{list(false)}</ul>
        {group(false).length === 0 && <p className="quiet small">Nothing is left out.</p>}
      </section>
      <More held={held} onRule={onRule} />
    </>
  );
}

function Picture({ lines, quiet }: { lines: number[][]; quiet: boolean }) {
  return (
    <svg width={40} height={34} viewBox="-0.08 -0.08 1.16 1.16" aria-hidden="true" className="class-picture">
      {lines.map(([x0, y0, x1, y1], i) => (
        <line
          key={i}
          x1={x0}
          y1={y0}
          x2={x1}
          y2={y1}
          stroke={quiet ? "#8A8A86" : tone.ink}
          strokeWidth={0.022}
          strokeLinecap="round"
        />
      ))}
    </svg>
  );
}

/** Decisions by storey, name or property. */
function More({ held, onRule }: { held: Held; onRule: (by: Rule["by"], value: string, keep: boolean) => void }) {
  const [by, setBy] = useState<Rule["by"]>("name");
  const [value, setValue] = useState("");
  const [property, setProperty] = useState("");
  const storeys = held.storeys as { id: string; name: string }[];
  const whole = by === "property" ? `${property}=${value}` : value;
  const ready = by === "property" ? property !== "" : value.trim() !== "";
  function decide(keep: boolean) {
    if (!ready) return;
    onRule(by, whole.trim(), keep);
    setValue("");
  }
  return (
    <section>
      <h3>Decide by</h3>
      <div className="row" style={{ flexWrap: "wrap", gap: 6 }}>
        <Select
          value={by}
          onChange={(e) => {
            setBy(e.target.value as Rule["by"]);
            setValue("");
          }}
          inputProps={{ "aria-label": "Decide by" }}
        >
          <MenuItem value="name">name</MenuItem>
          <MenuItem value="storey">storey</MenuItem>
          <MenuItem value="property">property</MenuItem>
        </Select>
        {by === "storey" && (
          <Select
            value={value}
            displayEmpty
            onChange={(e) => setValue(e.target.value)}
            inputProps={{ "aria-label": "Storey" }}
            renderValue={(v) => storeys.find((s) => s.id === v)?.name ?? "which storey"}
          >
            {storeys.map((s) => (
              <MenuItem key={s.id} value={s.id}>
                {s.name}
              </MenuItem>
            ))}
          </Select>
        )}
        {by === "property" && (
          <Select
            value={property}
            displayEmpty
            onChange={(e) => setProperty(e.target.value)}
            inputProps={{ "aria-label": "Property" }}
            renderValue={(v) => v || "which property"}
            sx={{ maxWidth: 240 }}
          >
            {held.properties.map((p) => (
              <MenuItem key={p} value={p}>
                {p}
              </MenuItem>
            ))}
          </Select>
        )}
        {by !== "storey" && (
          <input
            className="text-box"
            aria-label={by === "name" ? "Name or pattern" : "Value"}
            placeholder={by === "name" ? "stair*" : "value"}
            value={value}
            onChange={(e) => setValue(e.target.value)}
          />
        )}
        <Button variant="outlined" disabled={!ready} onClick={() => decide(false)}>
          Leave out
        </Button>
        <Button variant="outlined" disabled={!ready} onClick={() => decide(true)}>
          Keep
        </Button>
      </div>
      {by === "name" && <p className="quiet small">A star stands for anything; the name must match as a whole.</p>}
    </section>
  );
}

export function ruleId(rules: Rule[]): string {
  return freshId(
    "rule",
    rules.map((r) => r.id),
  );
}
