import { useKept } from "../app/state";
import { round, scale } from "../app/words";
import { type Floors, lineOf, topOf } from "./floors";
import { SunScale } from "./SunCells";

/** What the colours of a picture of light stand for. */
export function FloorScale({ floors }: { floors: Floors }) {
  const units = useKept((s) => s.units);
  const to = scale(floors.unit, units);
  const digits = floors.measure === "factor" ? 1 : 0;
  const [top, line] = [topOf(floors), lineOf(floors)];
  const more = floors.high > top * 1.001 ? " and more" : "";
  const drawn = line === null ? "" : `, line at ${round(line * to.factor, digits)}`;
  return (
    <SunScale
      what={`light on floors${drawn}`}
      low="0"
      high={`${round(top * to.factor, digits)}${more}`}
      unit={to.unit}
    />
  );
}
