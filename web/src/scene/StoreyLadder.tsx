import { useEffect, useRef, useState } from "react";
import { useKept } from "../app/state";
import { both } from "../app/words";
import { type Rung, sameLevel, type Working } from "./storeys";

/** More storeys than these are folded where they are alike. */
const FEW = 12;
/** So many alike in a row are worth a fold. */
const ALIKE = 3;

/** Storeys one above the other that are alike; a fold holds several. */
function foldsOf(rungs: Rung[]): Rung[][] {
  const folds: Rung[][] = [];
  for (const rung of rungs) {
    const fold = folds[folds.length - 1];
    const like = fold?.[0];
    const same =
      like && Math.abs(like.height - rung.height) < 0.01 && like.volumes.join("\n") === rung.volumes.join("\n");
    if (same) fold.push(rung);
    else folds.push([rung]);
  }
  return folds.flatMap((fold) => (fold.length < ALIKE ? fold.map((r) => [r]) : [fold]));
}

/** The building's section drawn small, one rung a storey, every one of them reachable: a press works on that storey, another lets go. */
export function StoreyLadder({
  working,
  unseen,
  adds,
  onLevel,
  onUnseen,
}: {
  working: Working;
  /** Zones that are not drawn. */
  unseen: Set<string>;
  /** Whether a storey above can be begun. */
  adds: boolean;
  onLevel: (level: number | null) => void;
  onUnseen: (zones: string[]) => void;
}) {
  const units = useKept((s) => s.units);
  const [opened, setOpened] = useState<number[]>([]);
  const draws = useRef<boolean | null>(null); // while ticks are dragged over: whether they draw
  useEffect(() => {
    const drop = () => {
      draws.current = null;
    };
    window.addEventListener("pointerup", drop);
    return () => window.removeEventListener("pointerup", drop);
  }, []);
  const { rungs, level, picked, above } = working;
  if (rungs.length === 0 && !adds) return null;
  const most = Math.max(...rungs.map((r) => r.volumes.length), 1);
  const folds = rungs.length > FEW ? foldsOf(rungs) : rungs.map((r) => [r]);
  const isOn = (r: Rung) => picked && sameLevel(r.level, level);
  const isOff = (zones: string[]) => zones.length > 0 && zones.every((z) => unseen.has(z));
  const wide = (r: Rung) => 26 + (28 * r.volumes.length) / most;

  /** Draws zones or leaves them out. */
  function draw(zones: string[], drawn: boolean) {
    const others = [...unseen].filter((z) => !zones.includes(z));
    onUnseen(drawn ? others : [...others, ...zones]);
  }

  function tick(of: Rung[], label: string) {
    const zones = of.flatMap((r) => r.zones);
    if (zones.length === 0) return <span className="tick" />;
    const off = isOff(zones);
    return (
      <span
        className="tick"
        role="checkbox"
        tabIndex={0}
        aria-checked={!off}
        aria-label={label}
        title={`${off ? "Not drawn" : "Drawn"}; press to change, drag over others to change them too`}
        onPointerDown={(e) => {
          e.currentTarget.releasePointerCapture(e.pointerId);
          draws.current = off;
          draw(zones, off);
        }}
        onPointerEnter={() => draws.current !== null && draws.current === off && draw(zones, off)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" && e.key !== " ") return;
          e.preventDefault();
          draw(zones, off);
        }}
      />
    );
  }

  const row = (r: Rung) => (
    <li key={r.level} className={isOff(r.zones) ? "off" : undefined}>
      {tick([r], `Draw the storey at ${both(r.level, "m", units, 1)}`)}
      <button
        type="button"
        className="rung"
        style={{ width: wide(r) }}
        data-empty={r.zones.length === 0 || undefined}
        aria-pressed={isOn(r)}
        aria-label={`${r.number}, storey at ${both(r.level, "m", units, 1)}`}
        title={
          r.zones.length === 0
            ? "Nothing stands here yet; what is drawn or laid under now lands here"
            : "Work on this storey: the plan shows it, and what is drawn lands here"
        }
        onClick={() => onLevel(isOn(r) ? null : r.level)}
      >
        {r.number}
      </button>
      <span className="level">{both(r.level, "m", units, 1)}</span>
    </li>
  );

  function group(fold: Rung[]) {
    const [first, last] = [fold[0], fold[fold.length - 1]];
    if (fold.length === 1) return row(first);
    const open = opened.includes(first.level) || fold.some(isOn);
    const name = `${first.number} – ${last.number}`;
    const turn = (
      <li key={`fold ${first.level}`}>
        {open ? <span className="tick" /> : tick(fold, `Draw the storeys ${name}`)}
        <button
          type="button"
          className="rung fold"
          aria-expanded={open}
          aria-label={open ? `fold the storeys ${name}` : `${name}, storeys that are alike`}
          title={open ? "Fold these storeys, which are alike" : "Show each of these storeys, which are alike"}
          onClick={() => {
            setOpened(open ? opened.filter((l) => l !== first.level) : [...opened, first.level]);
            if (open && fold.some(isOn)) onLevel(null);
          }}
        >
          {open ? "fold" : name}
        </button>
        {!open && <span className="level">{both(first.level, "m", units, 1)}</span>}
      </li>
    );
    return open ? [turn, ...[...fold].reverse().map(row)] : turn;
  }

  return (
    <ol className="ladder" aria-label="Storeys">
      {adds && (
        <li>
          <button
            type="button"
            className="rung begin"
            title={`Begin the next storey, at ${both(above, "m", units, 1)}`}
            onClick={() => onLevel(above)}
          >
            + storey above
          </button>
        </li>
      )}
      {[...folds].reverse().map(group)}
      <li className="ground" aria-hidden />
    </ol>
  );
}
