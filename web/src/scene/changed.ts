import { useEffect, useState } from "react";
import type { Face, Geometry } from "../api/client";

const SHOWN_MS = 900;

/** What is seen of a face, or said of it in the sheet. */
const tellsOf = (f: Face) =>
  [f.boundary, f.construction, f.glazing, f.louvre_m, JSON.stringify(f.loops), JSON.stringify(f.windows)].join("|");

/** The faces that differ from those of the form before. */
export function changedFaces(before: Geometry, after: Geometry): Face[] {
  const was = new Map(before.faces.map((f) => [f.id, f]));
  return after.faces.filter((f) => {
    const old = was.get(f.id);
    return f.boundary !== "zone" && old !== f && (!old || tellsOf(old) !== tellsOf(f));
  });
}

interface Seen {
  scheme: string;
  form: Geometry;
  changed: Face[];
}

const NONE: Face[] = [];

/**
 * The faces that the last edit changed, for a moment after it; none where a form is shown for the first time.
 * They are told in the same pass that draws the new form, so that the mark costs one frame more: that in which it goes.
 */
export function useChanged(scheme: string, settled: Geometry | undefined): Face[] {
  const [seen, setSeen] = useState<Seen | null>(null);
  if (settled && seen?.form !== settled) {
    const told = seen?.scheme === scheme && seen.form.faces.length > 0;
    const faces = told ? changedFaces(seen.form, settled) : NONE;
    setSeen({ scheme, form: settled, changed: faces.length > 0 ? faces : NONE });
  }
  const changed = seen?.changed ?? NONE;
  useEffect(() => {
    if (changed.length === 0) return;
    const timer = setTimeout(() => setSeen((now) => now && { ...now, changed: NONE }), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [changed]);
  return changed;
}
