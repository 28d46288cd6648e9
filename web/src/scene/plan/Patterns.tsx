import { tone } from "../../app/tokens";

/** Patterns by which boundaries are told apart without colour. */
export function Patterns({ px }: { px: number }) {
  return (
    <defs>
      <pattern id="hatch" width={8 * px} height={8 * px} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1={0} y1={0} x2={0} y2={8 * px} stroke={tone.ink} strokeWidth={1.2 * px} />
      </pattern>
      <pattern id="dots" width={7 * px} height={7 * px} patternUnits="userSpaceOnUse">
        <circle cx={2 * px} cy={2 * px} r={1.3 * px} fill={tone.tide} />
      </pattern>
      <pattern id="bars" width={6 * px} height={6 * px} patternUnits="userSpaceOnUse">
        <path d={`M${3 * px} 0v${6 * px}`} stroke="#8A7B5C" strokeWidth={px} />
      </pattern>
      <pattern id="cross" width={8 * px} height={8 * px} patternUnits="userSpaceOnUse">
        <path d={`M0 0L${8 * px} ${8 * px}M${8 * px} 0L0 ${8 * px}`} stroke="#8A8A86" strokeWidth={0.9 * px} />
      </pattern>
    </defs>
  );
}
