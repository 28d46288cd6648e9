import type { KeyboardEvent } from "react";

/** Enter keeps what was typed, as leaving the field does, and the keyboard stays where it was. */
export function keepOnEnter(e: KeyboardEvent<HTMLInputElement>) {
  if (e.key !== "Enter") return;
  const field = e.currentTarget;
  field.blur();
  field.focus();
}
