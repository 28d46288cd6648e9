import type { KeyboardEvent } from "react";

/** Enter keeps what was typed, as leaving the field does, and the keyboard stays where it was. */
export function keepOnEnter(e: KeyboardEvent<HTMLInputElement | HTMLTextAreaElement>) {
  if (e.key !== "Enter") return;
  e.preventDefault(); // no line in a name that takes several
  const field = e.currentTarget;
  field.blur();
  field.focus();
}
