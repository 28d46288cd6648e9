import { useKept } from "./state";
import { said } from "./words";

/** What the server says, with its amounts in the chosen units. */
export function Told({ text }: { text: string }) {
  return (
    <>
      {said(
        text,
        useKept((s) => s.units),
      )}
    </>
  );
}
