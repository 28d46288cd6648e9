import { useKeptOf } from "../app/state";
import { tone } from "../app/tokens";
import type { Legend, LegendEntry } from "./colours";

/** What the colours mean. A colour that stands for a thing can be changed by pressing it; it stays so until it is put back. */
export function LegendCard({ legend }: { legend: Legend }) {
  const { colours, setColour } = useKeptOf("colours", "setColour");
  const changed = legend.entries.filter((e) => e.key && colours[e.key]);
  return (
    <div className="overlay" style={{ right: 14, top: 92, maxHeight: "60%", overflow: "auto" }} data-legend>
      <div className="quiet">{legend.title}</div>
      {legend.entries.map((e) => (
        <div key={e.key ?? e.name} className="row" style={{ gap: 6 }}>
          <label style={{ position: "relative", display: "flex", cursor: e.key ? "pointer" : undefined }}>
            <Swatch entry={e} />
            {e.key && (
              <input
                type="color"
                aria-label={`Colour of ${e.name}`}
                title="Change this colour"
                value={/^#[0-9A-Fa-f]{6}$/.test(e.colour) ? e.colour : "#888888"}
                onChange={(event) => e.key && setColour(e.key, event.target.value)}
                style={{ position: "absolute", inset: 0, width: 18, height: 12, opacity: 0, cursor: "pointer" }}
              />
            )}
          </label>
          {e.name}
        </div>
      ))}
      {Boolean(legend.more) && <div className="quiet small">and {legend.more} more</div>}
      {changed.length > 0 && (
        <button
          type="button"
          className="plain small assumed"
          onClick={() => {
            for (const e of changed) if (e.key) setColour(e.key, null);
          }}
        >
          Put the colours back
        </button>
      )}
    </div>
  );
}

function Swatch({ entry }: { entry: LegendEntry }) {
  return (
    <svg width={18} height={12} aria-hidden="true">
      <rect width={18} height={12} fill={entry.colour} stroke="#8A8A86" strokeWidth={0.7} />
      {entry.pattern === "hatch" && <path d="M0 12L12 0M6 12L18 0" stroke={tone.ink} />}
      {entry.pattern === "dots" && (
        <path d="M4 4h1M9 4h1M14 4h1M4 8h1M9 8h1M14 8h1" stroke={tone.tide} strokeWidth={1.6} />
      )}
      {entry.pattern === "bars" && <path d="M3 0v12M9 0v12M15 0v12" stroke="#8A7B5C" />}
      {entry.pattern === "cross" && <path d="M0 0l18 12M18 0L0 12" stroke="#8A8A86" />}
    </svg>
  );
}
