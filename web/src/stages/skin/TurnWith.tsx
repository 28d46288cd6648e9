import { make } from "../../api/edits";
import { useEdit, useScheme } from "../../api/hooks";
import { ChoiceField } from "../../fields/Field";

const ways = [
  { id: "building", name: "turn with the building", short: "turn with it" },
  { id: "compass", name: "keep to the compass", short: "keep to the compass" },
];
const label = "Glass and shades";

/** Whether glass and shades turn with the scheme, or each side has what its new orientation has. */
export function TurnWith() {
  const { base } = useScheme();
  return <ChoiceField path={`${base}/skin/turn_with`} note="Skin.turn_with" label={label} options={ways} />;
}

/** The same, small, for where turning is a lever. */
export function TurnWithLine() {
  const { base, scheme } = useScheme();
  const edit = useEdit();
  return (
    <label className="small" style={{ display: "block", marginTop: 4 }}>
      <span className="quiet">{label}</span>
      <select
        className="text-box"
        style={{ width: "100%" }}
        value={scheme.skin?.turn_with ?? "building"}
        onChange={(e) => void edit(make.set(`${base}/skin/turn_with`, e.target.value))}
      >
        {ways.map((w) => (
          <option key={w.id} value={w.id}>
            {w.short}
          </option>
        ))}
      </select>
    </label>
  );
}
