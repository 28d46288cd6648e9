import { useScheme } from "../../api/hooks";
import { ChoiceField } from "../../fields/Field";

const ways = [
  { id: "building", name: "turn with the building" },
  { id: "compass", name: "keep to the compass" },
];

/** Whether glass and shades turn with the scheme, or each side has what its new orientation has. */
export function TurnWith({ label }: { label?: string }) {
  const { base } = useScheme();
  return <ChoiceField path={`${base}/skin/turn_with`} note="Skin.turn_with" label={label} options={ways} />;
}
