import { useEffect, useRef, useState } from "react";
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

/** The faces that the last edit changed, for a moment after it; none where a form is shown for the first time or anew as a whole. */
export function useChanged(scheme: string, settled: Geometry | undefined): Face[] {
  const last = useRef<{ scheme: string; form: Geometry } | null>(null);
  const [changed, setChanged] = useState<Face[]>([]);
  useEffect(() => {
    if (!settled) return;
    const before = last.current;
    last.current = { scheme, form: settled };
    if (before?.scheme !== scheme || before.form === settled || before.form.faces.length === 0) return setChanged([]);
    const faces = changedFaces(before.form, settled);
    setChanged(faces);
    const timer = setTimeout(() => setChanged([]), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [scheme, settled]);
  return changed;
}
